"""What the routers share: the surgery and the job runner."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from vane_line.api.settings import Settings
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store.database import Database


@dataclass(frozen=True)
class Context:
    """One per application."""

    settings: Settings
    surgery: Surgery
    runner: Runner

    @property
    def db(self) -> Database:
        return self.surgery.db


def get_context(request: Request) -> Context:
    """The application's context."""
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(get_context)]
