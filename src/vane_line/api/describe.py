"""Write the API's OpenAPI document and the contract's page: `python -m vane_line.api.describe FILE [CONTRACT.md]`."""

from __future__ import annotations

import json
import sys
from pathlib import Path

from vane_line.api.app import create_app
from vane_line.api.settings import Settings
from vane_line.core.contract.page import with_keys
from vane_line.store.database import Database


def describe() -> str:
    """The document as text, the same on every run."""
    app = create_app(Settings(), Database(":memory:"))
    return json.dumps(app.openapi(), indent=1) + "\n"


if __name__ == "__main__":
    Path(sys.argv[1]).write_text(describe(), encoding="utf-8")
    for name in sys.argv[2:]:
        page = Path(name)
        page.write_text(with_keys(page.read_text(encoding="utf-8")), encoding="utf-8")
