"""Who may ask: our own pages and programs on this machine, by a name that is ours.

A page from elsewhere could rebind its name to this machine and read the store, or post to it unseen. So the Host must
be a name of ours (a literal address cannot be rebound), and what changes anything must come from our own pages, or from
no page at all.
"""

from __future__ import annotations

import ipaddress
import socket
from collections.abc import Awaitable, Callable
from urllib.parse import urlsplit

from fastapi import FastAPI, Request, Response
from fastapi.responses import JSONResponse

SAFE = ("GET", "HEAD", "OPTIONS")
OWN_SITES = ("same-origin", "none")


def name_of(authority: str) -> str:
    """The name in `name:port`, small letters, without an IPv6 address's brackets."""
    try:
        return (urlsplit(f"//{authority}").hostname or "").rstrip(".")
    except ValueError:
        return ""


def is_ours(authority: str, names: frozenset[str]) -> bool:
    """Whether a Host header names this machine."""
    name = name_of(authority)
    try:
        ipaddress.ip_address(name)
    except ValueError:
        return name in names
    return True


def from_our_page(request: Request) -> bool:
    """Whether a request that changes something comes from our own page, or from no browser's page."""
    site = request.headers.get("sec-fetch-site")
    if site is not None and site not in OWN_SITES:
        return False
    origin = request.headers.get("origin")
    return origin is None or urlsplit(origin).netloc == request.headers.get("host")


def install(app: FastAPI, more_names: list[str]) -> None:
    """Refuse all others, before anything is read."""
    names = frozenset(
        {"localhost", socket.gethostname().lower(), *(n.strip().lower() for n in more_names if n.strip())}
    )

    @app.middleware("http")
    async def check(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        host = request.headers.get("host", "")
        if not is_ours(host, names):
            return JSONResponse(
                {"error": "This address is not one of ours; open the program by its own address, or name this one in "
                          "VANE_LINE_NAMES."}, 421)  # fmt: skip
        if request.method not in SAFE and not from_our_page(request):
            return JSONResponse({"error": "This was sent by a page of another site; nothing was changed."}, 403)
        return await call_next(request)
