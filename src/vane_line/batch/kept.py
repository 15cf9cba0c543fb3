"""What a batch leaves: a document for each hand-in as soon as it is done, and tables of all at the end."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pyarrow as pa
import pyarrow.parquet as pq

from vane_line.batch.one import FAILED, MEASURED
from vane_line.core.judge.table import HEAD, VERDICT, records_of
from vane_line.core.whole import write_whole
from vane_line.errors import BadOption, printable

DOCUMENTS = "documents"
NUMBERS = {"value", "U", "limit", "target", "missing"}
COLUMNS = ("id", *HEAD, *VERDICT)
SCHEMA = pa.schema([
    (n, pa.float64() if n in NUMBERS else pa.int64() if n == "standard_version" else pa.string()) for n in COLUMNS
])  # fmt: skip


class Kept:
    """The folder of a batch."""

    def __init__(self, folder: Path) -> None:
        """Raises BadOption where it cannot be written."""
        self.folder = folder
        try:
            (folder / DOCUMENTS).mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise BadOption(f"{printable(str(folder))}: it cannot be written ({error.strerror}).") from error

    def _place(self, name: str) -> Path:
        return self.folder / DOCUMENTS / f"{name}.json"

    def done(self, name: str, key: str) -> bool:
        """Whether a hand-in was answered before: measured, or refused for a reason of its own."""
        try:
            found = json.loads(self._place(name).read_text(encoding="utf-8"))
            return bool(found["key"] == key and found["status"] != FAILED)
        except (OSError, ValueError, KeyError, TypeError):
            return False

    def keep(self, name: str, key: str, answer: dict[str, Any]) -> None:
        """Whole or not at all."""
        write_whole(self._place(name), json.dumps({"id": name, "key": key, **answer}, ensure_ascii=False).encode())

    def answers(self, names: list[str]) -> Iterator[dict[str, Any]]:
        """One after the other: a class's documents are more than memory wants at once."""
        for name in names:
            try:
                yield json.loads(self._place(name).read_text(encoding="utf-8"))
            except (OSError, ValueError):
                continue

    def tables(self, names: list[str]) -> dict[str, int]:
        """Writes verdicts.parquet, verdicts.csv, results.json and failed.csv; how many there are of each status."""
        counts: dict[str, int] = {}
        text, failed, brief = io.StringIO(), io.StringIO(), []
        verdicts, refusals = csv.writer(text), csv.writer(failed)
        verdicts.writerow(COLUMNS)
        refusals.writerow(("id", "status", "error"))
        table = io.BytesIO()
        with pq.ParquetWriter(table, SCHEMA) as parquet:
            for answer in self.answers(names):
                counts[answer["status"]] = counts.get(answer["status"], 0) + 1
                brief.append({"id": answer["id"], "status": answer["status"], "error": answer["error"]})
                if answer["status"] != MEASURED:
                    refusals.writerow((answer["id"], answer["status"], answer["error"]))
                    continue
                rows = verdict_rows(answer["id"], answer["document"])
                verdicts.writerows(["" if r[c] is None else r[c] for c in COLUMNS] for r in rows)
                parquet.write_table(pa.Table.from_pylist(rows, schema=SCHEMA))
        write_whole(self.folder / "verdicts.parquet", table.getvalue())
        write_whole(self.folder / "verdicts.csv", text.getvalue().encode())
        write_whole(self.folder / "failed.csv", failed.getvalue().encode())
        write_whole(self.folder / "results.json", json.dumps(brief, ensure_ascii=False, indent=1).encode())
        return counts


def verdict_rows(name: str, document: dict[str, Any]) -> list[dict[str, Any]]:
    """One row a verdict."""
    return [{"id": name} | {c: record[c] for c in COLUMNS[1:]} for record in records_of(document)]
