"""Over many simulated preparations U covers the truth in 90 % and more, and no flawless one is given a fault.

A short run of what `make calibrate` does in full, on fresh seeds; the tables of `docs/uncertainty.md` are its.
"""

from __future__ import annotations

import multiprocessing
from collections import defaultdict
from collections.abc import Iterable
from concurrent.futures import ProcessPoolExecutor

import numpy as np
import pytest
from calibration import Errors, faulty, flawless
from calibration_parts import parts
from long import first

# How many are drawn in `make test`, and in `make test-all`; a faulty one carries two of each fault.
FLAWLESS, FAULTY, PARTS = (4, 24), (7, 16), (16, 40)
FEW = 20
MANY = 60  # of so many none outside U is no chance any more: one run in twenty
# Medians share the U of the lows that are judged; and what lifelike teeth scanned again spread by (docs/uncertainty.md)
# is more than ideal solids do: there U may cover always.
ONLY_COVERED = {
    "reduction, low", "reduction, median", "clearance", "finish line width, median", "finish line width, low",
    "wall height", "what remains", "draft", "convergence", "room", "path blocked", "margin height", "edge radius",
    "nick", "rim", "undercut", "step",
}  # fmt: skip


def _share_covered(results: Iterable[Errors]) -> dict[str, tuple[float, int]]:
    """Share of errors within U, and how many, by measure."""
    rows: dict[str, list[bool]] = defaultdict(list)
    for errors in results:
        for name, (error, u) in errors.items():
            kept = name if name.startswith(("reduction", "finish line width")) else name.split(",")[0]
            rows[kept].append(abs(error) <= u)
    return {name: (float(np.mean(inside)), len(inside)) for name, inside in rows.items()}


def _pool() -> ProcessPoolExecutor:
    return ProcessPoolExecutor(2, mp_context=multiprocessing.get_context("spawn"))


def _check(shares: dict[str, tuple[float, int]], least: int) -> None:
    for name, (share, count) in shares.items():
        assert count >= least, name
        # Of a short run's dozen two may miss by chance, where 95 in 100 are covered.
        wanted = 0.90 if count > FEW else 0.85
        assert share >= wanted, f"{name}: U covers {100 * share:.0f} % of {count}"
        if name not in ONLY_COVERED and count >= MANY:
            assert share <= 0.995, f"{name}: U is generous, it covers {100 * share:.1f} % of {count}"


@pytest.mark.parametrize("count", first(1, *FLAWLESS))
def test_flawless_preparations_raise_no_fault_and_u_covers_their_measures(count: int) -> None:
    """Reduction, clearance, walls, finish line, margin, room, ferrule: 90 % and more; not one fault."""
    with _pool() as pool:
        results = list(pool.map(flawless, range(count)))
    assert [fault for _, faults in results for fault in faults] == []
    _check(_share_covered(errors for errors, _ in results), count)


@pytest.mark.long
@pytest.mark.parametrize("count", first(1, *FAULTY))
def test_u_covers_undercuts_steps_rims_and_roughness(count: int) -> None:
    """Undercuts, steps and rims of random size, and stretches of scallops."""
    with _pool() as pool:
        shares = _share_covered(pool.map(faulty, range(count)))
    _check(shares, count)


@pytest.mark.long
@pytest.mark.parametrize("count", first(1, *PARTS))
def test_u_covers_edges_nicks_and_blocked_paths(count: int) -> None:
    """Several of each, on surfaces made for one measure alone."""
    with _pool() as pool:
        shares = _share_covered(pool.map(parts, range(count)))
    _check(shares, count)
