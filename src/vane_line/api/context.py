"""What the routers share: the database, the workers, the job runner."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from fastapi import Depends, Request

from vane_line.api.settings import Settings
from vane_line.service.runner import Runner
from vane_line.service.worker import Worker
from vane_line.store.database import Database


@dataclass(frozen=True)
class Context:
    """One per application."""

    settings: Settings
    db: Database
    live: Worker  # sections and axes, while the person looks
    hand: Worker  # edits by hand; it keeps the open case's search trees and profiles
    runner: Runner

    @property
    def db_path(self) -> str:
        return str(self.settings.database)


def get_context(request: Request) -> Context:
    """The application's context."""
    context: Context = request.app.state.context
    return context


Ctx = Annotated[Context, Depends(get_context)]
