"""Every error Vane Line raises on purpose, as one tree.

    VaneLineError
    ├── InputError              the caller's mistake: say what is wrong and what to do
    │   ├── UnreadableScan      a file that is not a usable surface
    │   ├── ScanTooLarge        more bytes or triangles than the settings allow
    │   ├── UnfitScans          readable scans that cannot be measured together
    │   ├── BadOption           an argument outside what is understood
    │   ├── BadStandard         a standard file that breaks its own rules
    │   ├── NotFound            a case, scan, job or standard that does not exist
    │   ├── NotSignedIn         nobody, or somebody whose password is wrong
    │   ├── NotAllowed          somebody whose role may not do it
    │   └── Conflict            somebody else changed the record first
    └── InternalError           our failure, never the caller's
        └── StoreError          the database could not be used

The class is chosen by who can mend it. HTTP statuses and exit codes are assigned at the borders
(`api.error_table`, `cli`), never here.
"""

from __future__ import annotations

import unicodedata

MAX_NAME = 80


class VaneLineError(Exception):
    """Root of the tree; its text is one sentence fit to show a person."""


class InputError(VaneLineError):
    """The caller can mend it."""


class UnreadableScan(InputError):
    """A file that is not a usable surface."""


class ScanTooLarge(InputError):
    """More bytes or triangles than the settings allow."""


class UnfitScans(InputError):
    """Readable scans that cannot be measured together."""


class BadOption(InputError):
    """An argument outside what is understood."""


class BadStandard(InputError):
    """A standard file that breaks its own rules."""


class NotFound(InputError):
    """Something named does not exist."""


class NotSignedIn(InputError):
    """Nobody is signed in, or name and password do not belong together."""


class NotAllowed(InputError):
    """The person's role may not do it."""


class Conflict(InputError):
    """The record has changed since it was read."""


class InternalError(VaneLineError):
    """Our failure."""


class WorkerDied(InternalError):
    """The process that did the work was ended from outside: nothing is wrong with what was asked."""


class StoreError(InternalError):
    """The database could not be used."""


def printable(name: str) -> str:
    """A file name as the person gave it, fit for one line of a message: control characters out, very long ones cut."""
    text = name.encode("utf-8", "replace").decode("utf-8")
    text = "".join(c for c in text if unicodedata.category(c)[0] != "C")
    return text if len(text) <= MAX_NAME else f"{text[: MAX_NAME // 2]}…{text[-MAX_NAME // 2 :]}"
