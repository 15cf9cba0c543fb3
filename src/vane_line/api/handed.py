"""Files as they are handed to the browser."""

from __future__ import annotations

from fastapi import Response


def handed(data: bytes, media_type: str, name: str, shown: bool = False) -> Response:
    """A file under a name: to be kept, or `shown` in the browser first."""
    how = "inline" if shown else "attachment"
    return Response(data, media_type=media_type, headers={"Content-Disposition": f'{how}; filename="{name}"'})
