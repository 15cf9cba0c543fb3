"""What takes long to make whatever is tested: made once, kept in `.cache/made` till the code that makes it changes."""

from __future__ import annotations

import hashlib
import os
import pickle
import time
from collections.abc import Callable
from functools import cache
from pathlib import Path
from typing import Any

ROOT = Path(__file__).parents[1]
FOLDER = ROOT / ".cache" / "made"
MAKERS = ("demo", "core/mesh")  # rooms whose code makes the demo's scans
STALE_S = 900.0  # a maker that has said nothing for so long has died


@cache
def version() -> str:
    """Of the code that makes the demo's scans."""
    found = hashlib.sha256()
    for room in MAKERS:
        for path in sorted((ROOT / "src" / "vane_line" / room).rglob("*.py")):
            found.update(path.read_bytes())
    return found.hexdigest()[:12]


def kept(name: str, make: Callable[[], Any], folder: Path | None = None) -> Any:
    """What `make` gives, made by whichever process comes first and read by all others, in this run and the next.

    folder: of this run alone, where what is made depends on the code under test.
    """
    folder = folder or FOLDER / version()
    folder.mkdir(parents=True, exist_ok=True)
    path, lock = folder / f"{name}.pickle", folder / f"{name}.lock"
    while not path.exists():
        try:
            lock.mkdir()
        except FileExistsError:
            if lock.exists() and time.time() - lock.stat().st_mtime > STALE_S:
                lock.rmdir()
            time.sleep(0.2)
            continue
        try:
            part = folder / f"{name}.{os.getpid()}.part"
            part.write_bytes(pickle.dumps(make(), pickle.HIGHEST_PROTOCOL))
            part.rename(path)
        finally:
            lock.rmdir()
    return pickle.loads(path.read_bytes())
