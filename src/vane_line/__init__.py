"""Vane Line measures tooth preparations: what scripts may rely on.

    from vane_line import Options, ToothNumber, measure_files

    result = measure_files(
        {"prep": "after.stl", "preop": "before.stl", "opposing": "opposing.stl"},
        Options(ToothNumber.parse("36")),
        material="lithium-disilicate",
    )
    for verdict in result.document["verdicts"]: ...

Lengths are mm and angles degrees, in the prep scan's coordinates; docs/contract.md describes the document. Names are
loaded on first use, so that importing the package costs nothing.
"""

from __future__ import annotations

import importlib
import os
from typing import TYPE_CHECKING, Any

# A library's threads that wait must not keep a core busy: where several measurements share a machine they would take
# as much time from each other as they spend. Matrices are small here: a second thread for them only waits, a tenth of
# a measurement's processor time. Both are read when the library is loaded.
os.environ.setdefault("OMP_WAIT_POLICY", "passive")
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

if TYPE_CHECKING:  # what type checkers and editors see; at run time a name is loaded when it is asked for
    from vane_line.core.bridge.whole import Bridge, measure_bridge
    from vane_line.core.case import Geometry, measure
    from vane_line.core.files import Measurement, measure_files
    from vane_line.core.judge.bridge import bridge_document
    from vane_line.core.judge.document import document
    from vane_line.core.judge.judgement import Judgement, judge
    from vane_line.core.judge.standard_choice import choose
    from vane_line.core.judge.standard_files import parse_standard
    from vane_line.core.judge.standards import Standard
    from vane_line.core.loading import load_scans
    from vane_line.core.mesh.surface import Surface
    from vane_line.core.options import Options
    from vane_line.core.scans import Scans
    from vane_line.core.tooth.notation import ToothNumber
    from vane_line.errors import BadOption, InputError, VaneLineError

_HOME = {
    "BadOption": "vane_line.errors",
    "Bridge": "vane_line.core.bridge.whole",
    "Geometry": "vane_line.core.case",
    "InputError": "vane_line.errors",
    "Judgement": "vane_line.core.judge.judgement",
    "Measurement": "vane_line.core.files",
    "Options": "vane_line.core.options",
    "Scans": "vane_line.core.scans",
    "Standard": "vane_line.core.judge.standards",
    "Surface": "vane_line.core.mesh.surface",
    "ToothNumber": "vane_line.core.tooth.notation",
    "VaneLineError": "vane_line.errors",
    "bridge_document": "vane_line.core.judge.bridge",
    "choose": "vane_line.core.judge.standard_choice",
    "document": "vane_line.core.judge.document",
    "judge": "vane_line.core.judge.judgement",
    "load_scans": "vane_line.core.loading",
    "measure": "vane_line.core.case",
    "measure_bridge": "vane_line.core.bridge.whole",
    "measure_files": "vane_line.core.files",
    "parse_standard": "vane_line.core.judge.standard_files",
}
__all__ = [
    "BadOption", "Bridge", "Geometry", "InputError", "Judgement", "Measurement", "Options", "Scans", "Standard",
    "Surface", "ToothNumber", "VaneLineError", "bridge_document", "choose", "document", "judge", "load_scans",
    "measure", "measure_bridge", "measure_files", "parse_standard",
]  # fmt: skip
__version__ = "1.0.0"


def __getattr__(name: str) -> Any:
    if name not in _HOME:
        raise AttributeError(f"module 'vane_line' has no attribute {name!r}")
    return getattr(importlib.import_module(_HOME[name]), name)


def __dir__() -> list[str]:
    return sorted({*globals(), *__all__})
