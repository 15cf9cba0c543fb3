"""The log of a career: what one's own cases say together."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Depends, Query, Response

from vane_line.api.career_schemas import CareerOut
from vane_line.api.context import Ctx
from vane_line.api.roles import own_cases
from vane_line.core.judge import criteria
from vane_line.service import career as log
from vane_line.service.career import Asked

router = APIRouter(prefix="/api", tags=["career"])
Word = Annotated[str, Query(max_length=40)]


def asked_of(ctx: Ctx, restoration: Word = "", material: Word = "", tooth: Word = "", mine: bool = True) -> Asked:
    """What is asked for; `mine`: where people sign in, only what the caller had measured first."""
    hand = ctx.surgery.actor if mine and ctx.signing_in else ""
    return Asked(restoration, material, tooth, hand)


@router.get("/career", operation_id="getCareer")
def get_career(ctx: Ctx, asked: Annotated[Asked, Depends(asked_of)]) -> CareerOut:
    """Where it falls short again and again, how the depths move, how many passes it takes, what was cut too deep."""
    found, choices = log.career_of(ctx.db, asked, own_cases(ctx))
    return CareerOut.of(found, choices, criteria.title)


@router.get("/career.csv", operation_id="getCareerTable", response_class=Response)
def get_career_table(ctx: Ctx, asked: Annotated[Asked, Depends(asked_of)]) -> Response:
    """Every verdict at fault as a table."""
    text = log.career_csv(ctx.db, asked, own_cases(ctx))
    headers = {"Content-Disposition": 'attachment; filename="own-cases.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)
