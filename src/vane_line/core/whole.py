"""Files that are written whole or not at all."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

from vane_line.errors import BadOption, printable


def write_whole(path: Path, data: bytes) -> None:
    """Write a file whole or not at all. Raises BadOption where it cannot be written."""
    try:
        handle, name = tempfile.mkstemp(dir=path.resolve().parent, prefix=".vane-line-")
    except OSError as error:
        raise BadOption(f"{printable(str(path))}: it cannot be written ({error.strerror}).") from error
    try:
        with os.fdopen(handle, "wb") as file:
            file.write(data)
        os.chmod(name, 0o644)
        os.replace(name, path)
    except OSError as error:
        os.unlink(name)
        raise BadOption(f"{printable(str(path))}: it cannot be written ({error.strerror}).") from error
