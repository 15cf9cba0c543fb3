"""What `make test` leaves to `make test-all`: a measure asked once more, with further values or in a narrow case."""

from __future__ import annotations

from typing import Any

import pytest


def first(count: int, *values: Any) -> list[Any]:
    """Values of a test's parameter: the first `count` always, the rest in `make test-all` alone."""
    rest = [pytest.param(*(v if isinstance(v, tuple) else (v,)), marks=pytest.mark.long) for v in values[count:]]
    return [*values[:count], *rest]
