"""Connection, transactions that nest, and numbered migrations."""

from __future__ import annotations

import re
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path

from ulid import ULID

from vane_line.errors import BadOption, StoreError

MIGRATIONS = Path(__file__).parent / "migrations"


def new_id() -> str:
    """A ULID: unique, and sorted by time."""
    return str(ULID())


def now() -> str:
    """UTC, ISO 8601."""
    return text_of(datetime.now(UTC))


def text_of(when: datetime) -> str:
    """A moment as the store writes it."""
    return when.astimezone(UTC).isoformat(timespec="milliseconds")


class Database:
    """One SQLite file, one writing process. A lock serialises threads; `atomic` nests by savepoints."""

    def __init__(self, path: Path | str, read_only: bool = False) -> None:
        try:
            if isinstance(path, Path) and not read_only:
                path.parent.mkdir(parents=True, exist_ok=True)
            address = f"{Path(path).resolve().as_uri()}?mode=ro" if read_only else path
            self.connection = sqlite3.connect(address, check_same_thread=False, isolation_level=None, uri=read_only)
        except (OSError, sqlite3.Error) as error:
            raise StoreError(f"{path}: the database cannot be opened ({error}).") from error
        self.connection.row_factory = sqlite3.Row
        self._lock = threading.RLock()
        self._depth = 0
        if read_only:
            self.connection.execute("PRAGMA busy_timeout = 5000")
            return
        # FULL: what was acknowledged is on the disk, whatever is switched off then.
        for pragma in ("journal_mode = WAL", "foreign_keys = ON", "synchronous = FULL", "busy_timeout = 5000"):
            self.connection.execute(f"PRAGMA {pragma}")
        migrate(self)

    @contextmanager
    def atomic(self) -> Iterator[sqlite3.Connection]:
        """All or nothing. Nested blocks are savepoints; the first error is the one that is seen."""
        with self._lock:
            name = f"level_{self._depth}"
            self.connection.execute("BEGIN IMMEDIATE" if self._depth == 0 else f"SAVEPOINT {name}")
            self._depth += 1
            try:
                yield self.connection
            except BaseException:
                self._depth -= 1
                if self._depth == 0:
                    self.connection.execute("ROLLBACK")
                else:
                    self.connection.execute(f"ROLLBACK TO {name}")
                    self.connection.execute(f"RELEASE {name}")
                raise
            self._depth -= 1
            self.connection.execute("COMMIT" if self._depth == 0 else f"RELEASE {name}")

    def rows(self, sql: str, *values: object) -> list[sqlite3.Row]:
        """All rows of a query. Raises BadOption for a value that cannot be kept."""
        with self._lock, _keepable():
            return self.connection.execute(sql, values).fetchall()

    def row(self, sql: str, *values: object) -> sqlite3.Row | None:
        """The first row of a query, or None."""
        found = self.rows(sql, *values)
        return found[0] if found else None

    def run(self, sql: str, *values: object) -> int:
        """Execute one statement; returns the number of rows it changed. Raises BadOption for a value that cannot be
        kept."""
        with self.atomic() as connection, _keepable():
            return connection.execute(sql, values).rowcount

    def close(self) -> None:
        """Close the file."""
        with self._lock:
            self.connection.close()


@contextmanager
def _keepable() -> Iterator[None]:
    """Raises BadOption where a number or a text is none that a store can hold."""
    try:
        yield
    except OverflowError as error:
        raise BadOption("A number in this is far too large; nothing was changed.") from error
    except UnicodeEncodeError as error:
        raise BadOption("A text in this holds half a character; nothing was changed.") from error


def migrate(db: Database, folder: Path = MIGRATIONS) -> None:
    """Run the numbered files that have not run, each with its own record in one transaction."""
    db.connection.execute("CREATE TABLE IF NOT EXISTS migrations (number INTEGER PRIMARY KEY, name TEXT, at TEXT)")
    done = {row["number"] for row in db.rows("SELECT number FROM migrations")}
    for path in sorted(folder.glob("[0-9]*.sql")):
        number = int(path.name.split("_")[0])
        if number in done:
            continue
        # Off while a table is made anew: dropping the old one would take along the rows that point at it.
        db.connection.execute("PRAGMA foreign_keys = OFF")
        try:
            with db.atomic() as connection:
                for statement in statements(path.read_text(encoding="utf-8")):
                    connection.execute(statement)
                broken = connection.execute("PRAGMA foreign_key_check").fetchall()
                if broken:
                    raise sqlite3.IntegrityError(f"{len(broken)} rows point at nothing")
                connection.execute("INSERT INTO migrations VALUES (?, ?, ?)", (number, path.name, now()))
        except sqlite3.Error as error:
            raise StoreError(f"migration {path.name} failed and was undone: {error}") from error
        finally:
            db.connection.execute("PRAGMA foreign_keys = ON")


def statements(script: str) -> list[str]:
    """A script's statements. Our migrations hold no semicolon inside a statement."""
    bare = re.sub(r"--[^\n]*", "", script)
    return [s.strip() for s in bare.split(";") if s.strip()]
