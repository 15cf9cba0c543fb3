"""The server is killed at random moments: what it acknowledged is there afterwards, and nothing is half there."""

from __future__ import annotations

import threading
import time
from pathlib import Path

import numpy as np
import pytest
from clinic import Clinic, sound
from long import first

ROUNDS = 2


@pytest.mark.parametrize("seed", first(1, 1, 2, 3, 4, 5))
def test_killed_at_any_moment_nothing_acknowledged_is_lost(tmp_path: Path, seed: int) -> None:
    """The whole server with kill -9, and single workers under it, at drawn moments; then the queue runs empty."""
    random = np.random.default_rng(seed)
    clinic = Clinic(tmp_path)
    for turn in range(ROUNDS):
        clinic.start()
        clinic.check()
        known = len(clinic.scans)
        work = threading.Thread(target=clinic.work)
        work.start()
        while turn == 0 and len(clinic.scans) == known:
            time.sleep(0.05)  # on a busy machine it takes a while until anything is acknowledged
        time.sleep(float(random.uniform(0.1, 2.5)))
        if turn % 2:
            clinic.kill_a_worker()
            time.sleep(float(random.uniform(0.0, 0.6)))
        clinic.kill()
        work.join(timeout=90)
        assert not work.is_alive()
        sound(tmp_path)
    clinic.start()
    clinic.check()
    for job in clinic.jobs[:1]:
        assert clinic.ended(job) == "done"
    clinic.kill()
