"""The one table from our errors to HTTP statuses."""

from __future__ import annotations

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse

from vane_line import errors

STATUS: dict[type[errors.VaneLineError], int] = {
    errors.ScanTooLarge: 413,
    errors.NotFound: 404,
    errors.Conflict: 409,
    errors.NotSignedIn: 401,
    errors.NotAllowed: 403,
    errors.InputError: 422,
    errors.InternalError: 500,
    errors.VaneLineError: 500,
}


def status_of(error: errors.VaneLineError) -> int:
    """The status of the nearest ancestor in the table."""
    return next(STATUS[kind] for kind in type(error).__mro__ if kind in STATUS)


def _whole(text: str) -> str:
    """A sentence that quotes what was sent, in characters that can be sent back."""
    return text.encode("utf-8", "replace").decode("utf-8")


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(errors.VaneLineError)
    async def ours(_: Request, error: errors.VaneLineError) -> JSONResponse:
        return JSONResponse({"error": _whole(str(error))}, status_of(error))

    @app.exception_handler(RequestValidationError)
    async def malformed(_: Request, error: RequestValidationError) -> JSONResponse:
        first = error.errors()[0]
        place = " → ".join(str(p) for p in first["loc"] if p != "body")
        return JSONResponse({"error": _whole(f"{place or 'the request'}: {first['msg']}.")}, 422)
