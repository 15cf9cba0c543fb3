"""The processes of a group, as /proc shows them."""

from __future__ import annotations

from pathlib import Path


def of_group(group: int) -> list[Path]:
    """The folders of those that live; any may be gone when it is read."""
    found = []
    for entry in Path("/proc").iterdir():
        if not entry.name.isdigit():
            continue
        try:
            if int((entry / "stat").read_text().rpartition(")")[2].split()[2]) == group:
                found.append(entry)
        except (OSError, ValueError, IndexError):
            continue
    return found
