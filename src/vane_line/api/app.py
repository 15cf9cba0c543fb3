"""create_app: settings in, application out."""

from __future__ import annotations

from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from datetime import timedelta
from pathlib import Path

from fastapi import Depends, FastAPI, Request, Response
from fastapi.responses import FileResponse, JSONResponse
from fastapi.staticfiles import StaticFiles

from vane_line import __version__
from vane_line.api import error_table, guard, roles
from vane_line.api.context import Context
from vane_line.api.routers import career, cases, library, people, plans, readings, scans, teaching, visits
from vane_line.api.settings import Settings
from vane_line.errors import printable
from vane_line.service.inbox import Inbox
from vane_line.service.keeping import Keeper
from vane_line.service.put_away import clear_old
from vane_line.service.runner import Runner
from vane_line.service.surgery import Surgery
from vane_line.store.database import Database

WEB = Path(__file__).resolve().parents[3] / "web" / "dist"


def create_app(settings: Settings, db: Database | None = None) -> FastAPI:
    """The application. `db` is opened from the settings unless given."""
    store = db or Database(settings.database)
    surgery = Surgery.open(store, settings.database, settings.limits)
    runner = Runner(surgery)
    inbox = Inbox(surgery, runner, settings.watched)
    every = timedelta(hours=settings.backup_hours)
    keeper = Keeper(store, settings.backups, every, settings.backups_kept) if settings.backups else None

    @asynccontextmanager
    async def lifespan(_: FastAPI) -> AsyncIterator[None]:
        clear_old(surgery)
        runner.start()
        inbox.start()
        if keeper:
            keeper.start()
        yield
        if keeper:
            keeper.stop()
        inbox.stop()
        runner.stop()
        surgery.close()

    # Their usual pages of documentation would fetch scripts from elsewhere.
    app = FastAPI(title="Vane Line", version=__version__, lifespan=lifespan, docs_url=None, redoc_url=None)
    app.state.context = Context(settings, surgery, runner)
    error_table.install(app)
    guard.install(app, settings.names.split(","))
    modules = (cases, library, scans, readings, plans, visits, teaching, people, career)
    for router in (*(module.router for module in modules), visits.lists):
        app.include_router(router, dependencies=[Depends(roles.may)])

    @app.get("/api/health", operation_id="health")
    def health() -> dict[str, str]:
        """Whether the server answers."""
        return {"status": "ok"}

    @app.middleware("http")
    async def keep_inside(request: Request, call_next: Callable[[Request], Awaitable[Response]]) -> Response:
        response = await call_next(request)
        # Nothing is fetched from outside, and no other site may frame or script us.
        response.headers["Content-Security-Policy"] = (
            "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
            "font-src 'self' data:; worker-src 'self' blob:; "
            "frame-ancestors 'none'"
        )
        response.headers["X-Content-Type-Options"] = "nosniff"
        response.headers["Referrer-Policy"] = "no-referrer"
        if request.url.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")  # patients' data: in no cache that outlives us
        return response

    @app.api_route("/api", methods=["GET"], include_in_schema=False)
    @app.api_route("/api/{path:path}", methods=["GET", "POST", "PUT", "PATCH", "DELETE"], include_in_schema=False)
    def unknown(path: str = "") -> JSONResponse:
        """An address of the API that does not exist is said, not answered with a page."""
        return JSONResponse({"error": f"There is nothing at /api/{printable(path)}."}, 404)

    _serve_pages(app)
    return app


def _serve_pages(app: FastAPI) -> None:
    """The built pages, where there are any."""
    if WEB.is_dir():
        app.mount("/assets", StaticFiles(directory=WEB / "assets"), name="assets")

        @app.get("/{path:path}", include_in_schema=False)
        def page(path: str) -> FileResponse:
            """Every other address is the single page's, which reads it."""
            file = (WEB / path).resolve()
            if path and file.is_file() and file.is_relative_to(WEB):
                return FileResponse(file)
            return FileResponse(WEB / "index.html", headers={"Cache-Control": "no-cache"})
