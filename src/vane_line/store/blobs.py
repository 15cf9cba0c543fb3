"""Bytes by their SHA-256, compressed, in chunks of 1 MB."""

from __future__ import annotations

import hashlib
import zlib

from vane_line.errors import NotFound, StoreError
from vane_line.store.database import Database, now

CHUNK_BYTES = 1 << 20
LEVEL = 1  # scans compress little; a higher level costs seconds


def put(db: Database, data: bytes) -> str:
    """Store `data` once; returns its hash."""
    digest = hashlib.sha256(data).hexdigest()
    if db.row("SELECT 1 FROM blobs WHERE hash = ?", digest):
        return digest
    with db.atomic() as connection:
        connection.execute("INSERT INTO blobs VALUES (?, ?, ?)", (digest, len(data), now()))
        for number, start in enumerate(range(0, max(len(data), 1), CHUNK_BYTES)):
            chunk = zlib.compress(data[start : start + CHUNK_BYTES], LEVEL)
            connection.execute("INSERT INTO chunks VALUES (?, ?, ?)", (digest, number, chunk))
    return digest


def get(db: Database, digest: str) -> bytes:
    """The bytes of a hash. Raises NotFound, StoreError where they have rotted."""
    if not db.row("SELECT 1 FROM blobs WHERE hash = ?", digest):
        raise NotFound("There is no stored data by that hash.")
    rows = db.rows("SELECT data FROM chunks WHERE hash = ? ORDER BY number", digest)
    try:
        return b"".join(zlib.decompress(row["data"]) for row in rows)
    except zlib.error as error:
        raise StoreError("A stored scan is damaged on this disk; bring the store back from a backup.") from error
