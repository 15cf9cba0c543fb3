"""What is asked of a worker."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

Progress = Callable[[str, float], None]
Fetch = Callable[[str], bytes]  # bytes by their SHA-256


@dataclass(frozen=True)
class Task:
    """What to do (`kind` names a function of `work.tasks`), and with what: plain data."""

    kind: str
    payload: dict[str, Any]
