"""Hand-ins measured on a Dask cluster: of this machine's own processes, or one that runs elsewhere.

Bytes go to the workers and plain data comes back: no disk is shared. Few are under way at a time, so memory stays flat
however many there are; each answer is kept as soon as it is there.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import dask
from distributed import Client, LocalCluster, as_completed

from vane_line.batch.hand_in import HandIn
from vane_line.batch.kept import Kept
from vane_line.batch.one import FAILED, REFUSED, Contents, key_of, measured
from vane_line.errors import BadOption

UNDER_WAY = 2  # hand-ins per worker that are sent at a time
SEVERAL = 2  # times that a hand-in may lose its worker
# Dask's own setting gives every freed array back to the system at once, and a seventh of the time goes into asking for
# memory again: what one measurement needs is kept for the next.
KEPT_BYTES, MAPPED_BYTES = 256 << 20, 64 << 20
MEMORY = {"distributed.nanny.pre-spawn-environ.MALLOC_TRIM_THRESHOLD_": KEPT_BYTES,
          "distributed.nanny.pre-spawn-environ.MALLOC_MMAP_THRESHOLD_": MAPPED_BYTES}  # fmt: skip
Told = Callable[[int, int, float | None], None]  # how many are done, of how many, seconds that are left


@contextmanager
def cluster(workers: int, scheduler: str | None) -> Iterator[Client]:
    """A client of `scheduler`, or of `workers` processes of this machine. Raises BadOption where none answers."""
    if scheduler:
        try:
            client = Client(scheduler, timeout="10s")
        except (OSError, TimeoutError, ValueError) as error:
            raise BadOption(f"scheduler {scheduler}: nothing answers there; start it, or leave it out.") from error
        with client:
            yield client
        return
    with dask.config.set(MEMORY):
        here = LocalCluster(n_workers=workers, threads_per_worker=1, processes=True, dashboard_address=None)
    with here, Client(here) as client:
        yield client


def run(hand_ins: list[HandIn], out: Path, client: Client, told: Told = lambda _d, _n, _s: None) -> dict[str, int]:
    """Measure what is not done yet, and write the tables; how many are measured, refused, failed.

    Stopped or killed at any moment, what was answered stays; the next run goes on from there.
    """
    kept, names = Kept(out), [h.id for h in hand_ins]
    began, done, fresh = time.monotonic(), 0, 0
    waiting = iter(hand_ins)
    flowing = as_completed(with_results=False)
    keys: dict[Any, tuple[str, str]] = {}
    workers = max(len(client.scheduler_info(n_workers=-1)["workers"]), 1)

    def send() -> bool:
        """The next hand-in that is not done; False when there is none."""
        nonlocal done
        for hand_in in waiting:
            contents, wrong = _contents(hand_in)
            key = key_of(contents, hand_in.asked)
            if wrong:
                kept.keep(hand_in.id, key, {"status": REFUSED, "document": None, "error": wrong})
            elif not kept.done(hand_in.id, key):
                (sent,) = client.scatter([contents], hash=False)  # a dict would be parted by its keys
                future = client.submit(measured, sent, hand_in.asked, pure=False, retries=SEVERAL)
                keys[future] = (hand_in.id, key)
                flowing.add(future)
                return True
            done += 1
            told(done, len(hand_ins), None)
        return False

    for _ in range(UNDER_WAY * workers):
        if not send():
            break
    for future in flowing:
        name, key = keys.pop(future)
        error = future.exception()
        answer = future.result() if error is None else {"status": FAILED, "document": None, "error": _why(error)}
        kept.keep(name, key, answer)
        future.release()
        done, fresh = done + 1, fresh + 1
        left = len(hand_ins) - done
        told(done, len(hand_ins), left * (time.monotonic() - began) / fresh)
        send()
    return kept.tables(names)


def _contents(hand_in: HandIn) -> tuple[Contents, str]:
    """What its files hold, and why one cannot be read, or ''."""
    out: Contents = {}
    for role, path in hand_in.files.items():
        try:
            out[role] = (path.name, path.read_bytes())
        except OSError as error:
            return out, f"{path.name}: it cannot be read ({error.strerror}); check its name and permissions."
    return out, ""


def _why(error: BaseException) -> str:
    if type(error).__name__ == "KilledWorker":
        return "the process that measured it ended each time, most likely for want of memory; give it fewer triangles"
    return f"it could not be measured ({type(error).__name__}); run it alone with vane-line measure"
