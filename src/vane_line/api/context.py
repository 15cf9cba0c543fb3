"""What the routers share: the surgery and the job runner."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Annotated

from fastapi import Depends, Request

from vane_line.api.settings import Settings
from vane_line.service import people
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store.database import Database
from vane_line.store.people import Person

COOKIE = "vane_session"


@dataclass(frozen=True)
class Context:
    """One per application; of a request, with who asks. person: None where nobody signs in, or nobody has."""

    settings: Settings
    surgery: Surgery
    runner: Runner
    person: Person | None = None

    @property
    def signing_in(self) -> bool:
        """Whether people sign in: wherever other machines may connect, or a password is set."""
        return not self.settings.only_this_machine or self.settings.password is not None

    @property
    def db(self) -> Database:
        return self.surgery.db


def get_context(request: Request) -> Context:
    """The application's context, with who asks: what they change carries their name."""
    context: Context = request.app.state.context
    if not context.signing_in:
        return context
    person = people.who(context.db, request.cookies.get(COOKIE))
    if person is None:
        return context
    return replace(context, person=person, surgery=replace(context.surgery, actor=person.name))


Ctx = Annotated[Context, Depends(get_context)]
