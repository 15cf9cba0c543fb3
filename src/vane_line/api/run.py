"""Start the server, with the demo where asked."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import uvicorn

from vane_line.api.app import WEB, create_app
from vane_line.api.settings import Settings
from vane_line.service.demo import fill_demo
from vane_line.service.people import first_owner
from vane_line.service.surgery import Surgery
from vane_line.store.database import Database

# A browser keeps a connection for minutes: one that is closed sooner may be closed under a request that just left.
KEEP_ALIVE_S = 120


def serve(host: str | None, port: int | None, data: str | None, demo: bool, backup: str | None = None) -> int:
    """Run until stopped. Listening beyond this machine needs a password."""
    given: dict[str, Any] = {"host": host, "port": port, "data": Path(data) if data else None,
                             "backups": Path(backup) if backup else None}  # fmt: skip
    settings = Settings(**{k: v for k, v in given.items() if v is not None})
    db = Database(settings.database)
    if not settings.only_this_machine or settings.password:
        made = first_owner(db, settings.password)
        if made is not None:
            print(f"Other machines may connect. Sign in as owner, password: {made}", flush=True)
            print("It is shown this once; change it, and add the others under People.", flush=True)
    if demo:
        surgery = Surgery.open(db, settings.database, settings.limits)
        fill_demo(surgery, lambda text: print(f"  {text}", flush=True), settings.demo_grid_mm)
        surgery.close()
    if not WEB.is_dir():
        print("The web pages are not built (run `make setup`); only the API answers.", flush=True)
    print(f"Vane Line is ready: http://{settings.host}:{settings.port}/   (stop with Ctrl+C)", flush=True)
    uvicorn.run(
        create_app(settings, db),
        host=settings.host,
        port=settings.port,
        log_level="warning",
        timeout_keep_alive=KEEP_ALIVE_S,
    )
    return 0
