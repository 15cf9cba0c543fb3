"""Exercises, hand-ins, looking first, marks, the class."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated, Literal

from fastapi import APIRouter, File, Form, Response, UploadFile

from vane_line.api.context import Context, Ctx
from vane_line.api.handed import handed
from vane_line.api.routers.scans import uploaded
from vane_line.api.teaching_schemas import (
    ClassOut,
    ClassReliefOut,
    ExerciseIn,
    ExerciseOut,
    HandedInOut,
    LookIn,
    MarkedOut,
    OverruleIn,
    RubricIn,
    RubricModel,
    RubricOut,
    TaughtOut,
)
from vane_line.core.grade.look import Mark
from vane_line.core.grade.rubric import Rubric, every_rubric
from vane_line.core.judge import criteria
from vane_line.errors import printable
from vane_line.service import class_relief, rubrics, teaching
from vane_line.store import cases, exercises
from vane_line.store.exercises import Exercise

router = APIRouter(prefix="/api", tags=["teaching"])


def exercise_out(ctx: Context, exercise: Exercise) -> ExerciseOut:
    """An exercise as the browser sees it."""
    site = cases.sites_of(ctx.db, exercise.case_id)[0]
    return ExerciseOut(
        id=exercise.id, title=exercise.title, case_id=exercise.case_id, tooth=site.tooth, restoration=site.restoration,
        rubric=RubricOut.model_validate({k: exercise.rubric[k] for k in RubricOut.model_fields}),
        look_first=exercise.look_first, created_at=exercise.created_at,
        handed_in=len(exercises.handed_in(ctx.db, exercise.id)),
    )  # fmt: skip


def _rubric_out(rubric: Rubric) -> RubricModel:
    shipped = {r.id for r in every_rubric()}
    return RubricModel.model_validate(asdict(rubric) | {"own": rubric.id not in shipped})


@router.get("/rubrics", operation_id="listRubrics")
def list_rubrics(ctx: Ctx) -> list[RubricModel]:
    """Ways to mark: those that ship, and the newest version of each of the school's own."""
    return [_rubric_out(r) for r in rubrics.all_rubrics(ctx.db)]


@router.get("/rubric-words", operation_id="listMarked")
def list_marked() -> list[MarkedOut]:
    """What a rubric's row can mark."""
    return [MarkedOut(name=c.name, title=c.title) for c in criteria.every()]


@router.post("/rubrics", operation_id="saveRubric", status_code=201)
def save_rubric(ctx: Ctx, body: RubricIn) -> RubricModel:
    """A copy of one's own, or the next version of it. Exercises keep the version they were begun with."""
    data = body.model_dump(exclude={"expected_version", "rows", "caps", "steps"})
    for name, rows in (("row", body.rows), ("cap", body.caps), ("step", body.steps)):
        data[name] = [row.model_dump() for row in rows]
    return _rubric_out(rubrics.save(ctx.db, data, body.expected_version))


@router.get("/exercises", operation_id="listExercises")
def list_exercises(ctx: Ctx) -> list[ExerciseOut]:
    """Newest first."""
    return [exercise_out(ctx, e) for e in exercises.list_exercises(ctx.db)]


@router.post("/exercises", operation_id="addExercise", status_code=201)
def add_exercise(ctx: Ctx, body: ExerciseIn) -> ExerciseOut:
    """Hand out a case's scan before cutting."""
    made = teaching.start_exercise(ctx.db, body.title, body.case_id, body.rubric_id, body.look_first)
    return exercise_out(ctx, made)


@router.delete("/exercises/{exercise_id}", operation_id="deleteExercise", status_code=204)
def delete_exercise(ctx: Ctx, exercise_id: str) -> Response:
    """End an exercise; what was handed in stays as cases."""
    exercises.delete_exercise(ctx.db, exercise_id)
    return Response(status_code=204)


@router.post("/exercises/{exercise_id}/hand-ins", operation_id="handIn", status_code=201)
def hand_in(
    ctx: Ctx,
    exercise_id: str,
    file: Annotated[UploadFile, File()],
    code: Annotated[str, Form()] = "",
    unit: Annotated[Literal["auto", "mm", "cm", "m", "in"], Form()] = "auto",
) -> HandedInOut:
    """A student's scan; the code is what begins the file's name unless given. The same code again is the next
    attempt."""
    name, data = uploaded(ctx, file)
    if ctx.person is not None and ctx.person.role == "student":
        code = ctx.person.name  # nobody hands in for another
    reading_id = teaching.hand_in(ctx.surgery, exercise_id, name, data, printable(code), unit)
    ctx.runner.wake()
    return HandedInOut(reading_id=reading_id, case_id=cases.get_reading(ctx.db, reading_id).case_id)


@router.get("/exercises/{exercise_id}/class", operation_id="getClass")
def get_class(ctx: Ctx, exercise_id: str) -> ClassOut:
    """All that was handed in, marked; where all fall short; how far instructor and tool agree."""
    found = teaching.class_of(ctx.db, exercise_id)
    return ClassOut(**(vars(found) | {"exercise": exercise_out(ctx, found.exercise)}))


@router.get("/exercises/{exercise_id}/class.csv", operation_id="getClassCsv", response_class=Response)
def get_class_csv(ctx: Ctx, exercise_id: str) -> Response:
    """For the school's books: a line a student."""
    text = teaching.class_csv(teaching.class_of(ctx.db, exercise_id))
    return handed(text.encode("utf-8-sig"), "text/csv", "class.csv")


@router.get("/exercises/{exercise_id}/relief", operation_id="getClassRelief")
def get_class_relief(ctx: Ctx, exercise_id: str) -> ClassReliefOut:
    """The mesh on which it is shown where the class falls short, and of how many preparations it is told."""
    return ClassReliefOut(**asdict(class_relief.facts_of(ctx.db, exercise_id)))


@router.get("/exercises/{exercise_id}/relief/{shown}", operation_id="getClassReliefField", response_class=Response)
def get_class_relief_field(ctx: Ctx, exercise_id: str, shown: class_relief.Shown) -> Response:
    """Float32 per vertex of the mesh: medians of what was taken off, of the least and the most that is asked, and the
    share of the class that is short or over there."""
    return Response(class_relief.field_of(ctx.db, exercise_id, shown), media_type="application/octet-stream")


@router.get("/readings/{reading_id}/taught", operation_id="getTaught")
def get_taught(ctx: Ctx, reading_id: str) -> TaughtOut:
    """What an attempt was handed in for, and how it was looked at and marked. Before the look is taken, no mark."""
    found = teaching.taught(ctx.db, reading_id)
    exercise = None if found.exercise is None else exercise_out(ctx, found.exercise)
    return TaughtOut(**(vars(found) | {"exercise": exercise}))


@router.put("/readings/{reading_id}/look", operation_id="addLook")
def add_look(ctx: Ctx, reading_id: str, body: LookIn) -> TaughtOut:
    """Keep what was seen before the verdict; an empty list passes it over. Once."""
    marks = [Mark((m.at[0], m.at[1], m.at[2]), m.said, m.amount_mm) for m in body.marks]
    teaching.add_look(ctx.db, reading_id, marks, ctx.surgery.actor)
    return get_taught(ctx, reading_id)


@router.post("/readings/{reading_id}/overrule", operation_id="overrule")
def overrule(ctx: Ctx, reading_id: str, body: OverruleIn) -> TaughtOut:
    """An instructor's mark and reason, kept beside the tool's."""
    teaching.add_overrule(ctx.db, reading_id, body.mark, body.why, ctx.surgery.actor)
    return get_taught(ctx, reading_id)
