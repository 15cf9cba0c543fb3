"""Settings from the environment (VANE_LINE_…) and the command line."""

from __future__ import annotations

from pathlib import Path

from pydantic_settings import BaseSettings, SettingsConfigDict

from vane_line.core.mesh.read import MAX_BYTES
from vane_line.core.mesh.soup import MAX_TRIANGLES


class Settings(BaseSettings):
    """Where data lies, who may listen, how large a scan may be."""

    model_config = SettingsConfigDict(env_prefix="VANE_LINE_")

    data: Path = Path("data")
    host: str = "127.0.0.1"
    port: int = 8470
    password: str | None = None  # the first owner's; given, people sign in on this machine too
    demo_grid_mm: float = 0.16  # of the simulated scanner; coarser demo scans are made in half the time
    inbox: Path | None = None  # the folder that the scanner drops files into; `inbox` in the data folder unless given
    max_upload_bytes: int = MAX_BYTES
    max_triangles: int = MAX_TRIANGLES
    backups: Path | None = None  # the folder that the store is backed up into while the server runs; none unless given
    backup_hours: float = 24.0
    backups_kept: int = 14
    names: str = ""  # by which other machines may call this one, beside its own name and addresses; commas between

    @property
    def database(self) -> Path:
        return self.data / "vane-line.sqlite"

    @property
    def watched(self) -> Path:
        return self.inbox or self.data / "inbox"

    @property
    def limits(self) -> tuple[int, int]:
        return self.max_upload_bytes, self.max_triangles

    @property
    def only_this_machine(self) -> bool:
        return self.host in ("127.0.0.1", "localhost", "::1")
