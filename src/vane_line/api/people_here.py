"""People of a store, at the machine that keeps it: for whoever has lost the owner's password."""

from __future__ import annotations

from vane_line.api.keep import existing
from vane_line.errors import NotFound
from vane_line.service import people as signing
from vane_line.store import people
from vane_line.store.database import Database


def listed(data: str | None) -> list[str]:
    """A line a person. Raises BadOption."""
    db = Database(existing(data))
    return [f"{p.name}\t{p.role}\tsince {p.created_at[:10]}" for p in people.list_people(db)]


def renewed(data: str | None, name: str, password: str) -> str:
    """A new password. Raises NotFound, BadOption."""
    db = Database(existing(data))
    found = people.named(db, name)
    if found is None:
        raise NotFound(f"Nobody is called {name}; see vane-line people.")
    signing.change_password(db, found.id, password)
    return f"{found.name} has a new password, and is signed out everywhere."
