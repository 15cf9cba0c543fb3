"""People of a store, at the machine that keeps it: for whoever has lost the owner's password."""

from __future__ import annotations

from pathlib import Path

from vane_line.api.settings import Settings
from vane_line.errors import NotFound
from vane_line.service import people as signing
from vane_line.store import people
from vane_line.store.database import Database


def _open(data: str | None) -> Database:
    settings = Settings(data=Path(data)) if data else Settings()
    if not settings.database.exists():
        raise NotFound(f"There is no store in {settings.data}; give its folder with --data.")
    return Database(settings.database)


def listed(data: str | None) -> list[str]:
    """A line a person. Raises NotFound."""
    return [f"{p.name}\t{p.role}\tsince {p.created_at[:10]}" for p in people.list_people(_open(data))]


def renewed(data: str | None, name: str, password: str) -> str:
    """A new password. Raises NotFound, BadOption."""
    db = _open(data)
    found = people.named(db, name)
    if found is None:
        raise NotFound(f"Nobody is called {name}; see vane-line people.")
    signing.change_password(db, found.id, password)
    return f"{found.name} has a new password, and is signed out everywhere."
