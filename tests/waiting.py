"""Waiting for a state, as long as a busy machine needs."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any, TypeVar

T = TypeVar("T")
HANGS_S = 900.0  # no test takes this long on any machine: what has not come by then never will


def until(look: Callable[[], T], done: Callable[[T], object] = bool) -> T:
    """What is seen once it is as wanted; what was seen last is said where that never comes."""
    end = time.monotonic() + HANGS_S
    while not done(seen := look()):
        if time.monotonic() > end:
            raise AssertionError(f"still {seen}")
        time.sleep(0.05)
    return seen


def until_ended(http: Any, job: str) -> dict[str, Any]:
    """A job's row, as the API tells it, once it is neither waiting nor running. http: a client of the server."""
    return until(lambda: http.get(f"/api/jobs/{job}").json(), lambda row: row["state"] not in ("waiting", "running"))
