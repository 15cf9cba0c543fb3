"""What a warm process keeps between tasks: surfaces, search trees and profiles of the cases last worked on."""

from __future__ import annotations

import json
from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np

from vane_line.core import kinds
from vane_line.core.aligned import Aligned, align
from vane_line.core.apart import each
from vane_line.core.arrays import Floats
from vane_line.core.burs import Bur, parse_bur
from vane_line.core.case import prepare
from vane_line.core.jaw.articulator import Articulator
from vane_line.core.jaw.hinge import Raise
from vane_line.core.judge.standard_files import parse_standard
from vane_line.core.judge.standards import Standard
from vane_line.core.loading import remarks
from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld
from vane_line.core.options import HAND_KINDS, HandLine, Options, Pairs
from vane_line.core.placed import Placed, locate
from vane_line.core.prepared import Prepared
from vane_line.core.scans import Scans
from vane_line.core.tooth.notation import ToothNumber
from vane_line.work.task import Fetch, Progress

KEPT_SURFACES = 8
KEPT_CASES = 2


class Desk:
    """One process's working place. `fetch` gives stored bytes by their hash; what is kept changes no answer."""

    def __init__(self, fetch: Fetch) -> None:
        self.fetch = fetch
        self._surfaces: dict[tuple[str, str], tuple[Surface, list[str]]] = {}
        self._aligned: dict[str, Aligned] = {}
        self._placed: dict[str, Placed] = {}
        self._prepared: dict[str, Prepared] = {}
        self._fitted: dict[str, Floats | None] = {}

    def surface(self, scan: dict[str, str], role: str) -> tuple[Surface, list[str]]:
        """A scan's full surface in mm, and what was done to it on the way in."""
        self._read({role: scan})
        return self._surfaces[_key(scan)]

    def _read(self, scans: dict[str, dict[str, str]]) -> None:
        """What is not kept of the scans by role, read at the same time; their bytes are fetched by this process."""
        missing = {role: scan for role, scan in scans.items() if _key(scan) not in self._surfaces}
        data = [self.fetch(scan["raw_hash"]) for scan in missing.values()]
        jobs = [partial(_surface, *given) for given in zip(data, missing.values(), missing, strict=True)]
        for scan, found in zip(missing.values(), each(jobs), strict=True):
            _keep(self._surfaces, _key(scan), found, KEPT_SURFACES)

    def scans(self, payload: dict[str, Any]) -> Scans:
        """The surfaces of a measurement."""
        surfaces, said, names = {}, [], {}
        self._read(payload["scans"])
        for role, scan in payload["scans"].items():
            surfaces[role], remark = self.surface(scan, role)
            said += remark
            names[role] = scan["name"]
        return Scans(**surfaces, names=names, warnings=tuple(said))

    def prepared(self, payload: dict[str, Any], progress: Progress) -> Prepared:
        """The case up to where a hand on the finish line begins, from what is kept of it where it can be."""
        options = {k: v for k, v in payload["options"].items() if k not in HAND_KINDS}
        options["restoration"] = payload["restoration"]
        scans = _files(payload)
        case = json.dumps([scans, options], sort_keys=True)
        along = json.dumps([case, payload["options"].get("path")])
        if along in self._prepared:
            return self._prepared[along]
        if case not in self._placed:
            _keep(self._placed, case, self._located(payload, progress), KEPT_CASES)
        ready = prepare(self._placed[case], options_of(payload), progress)
        _keep(self._prepared, along, ready, KEPT_CASES)
        return ready

    def fitted(self, pair: str, fit: Callable[[], Floats | None]) -> Floats | None:
        """How one scan lies on another, found once; None where they do not fit."""
        if pair not in self._fitted:
            _keep(self._fitted, pair, fit(), KEPT_SURFACES)
        return self._fitted[pair]

    def _located(self, payload: dict[str, Any], progress: Progress) -> Placed:
        """A tooth on its case's scans, which are aligned once for all its teeth."""
        options = options_of(payload)
        scans = _files(payload)
        asked = {name: payload["options"].get(name) for name in ("occlusal", "pairs", "guide_pins")}
        together = json.dumps([scans, asked, options.pins_may_stand], sort_keys=True)
        if together not in self._aligned:
            _keep(self._aligned, together, align(self.scans(payload), options, progress), KEPT_CASES)
        return locate(self._aligned[together], options, progress, kinds.of(options.restoration).reader.find)


def _key(scan: dict[str, str]) -> tuple[str, str]:
    return scan["raw_hash"], scan["unit"]


def _surface(data: bytes, scan: dict[str, str], role: str) -> tuple[Surface, list[str]]:
    """A file's surface in mm, and what was done to it on the way in."""
    welded = weld(read_soup(data, scan["name"]), scan["unit"], scan["name"])
    return welded.surface, remarks(role, welded)


def _files(payload: dict[str, Any]) -> dict[str, list[str]]:
    """What tells the scans of a measurement from others."""
    return {role: [scan["raw_hash"], scan["unit"]] for role, scan in payload["scans"].items()}


def options_of(payload: dict[str, Any]) -> Options:
    """The options of a measurement from plain data."""
    given = payload["options"]

    def vector(name: str) -> Any:
        return None if given.get(name) is None else np.array(given[name], dtype=float)

    return Options(
        ToothNumber(given["tooth"]),
        restoration=payload["restoration"],
        occlusal=vector("occlusal"),
        facial=vector("facial"),
        near=vector("near"),
        path=vector("path"),
        earlier=given.get("meaning") or "natural",
        opposing_frame=given.get("opposing_frame", "prep"),
        functional_side=given.get("functional_side"),
        root_filled=bool(given.get("root_filled", False)),
        dark=bool(given.get("dark", False)),
        others=tuple(ToothNumber(t) for t in given.get("others", ())),
        guide_pins=bool(given.get("guide_pins", False)),
        gauge=dict(given.get("gauge") or {}),
        facts=tuple(given.get("facts") or ()),
        by_eye=True,
        line=_hand_line(given.get("line")),
        gingiva=vector("gingiva"),
        core=vector("core"),
        bur_radius_mm=float(given.get("bur_radius_mm", 0.5)),
        opening=Raise.parse(given["opening"]) if given.get("opening") else None,
        movements=Articulator.parse(given["movements"]) if given.get("movements") else None,
        pairs={r: Pairs(p["theirs"], p["ours"]) for r, p in (given.get("pairs") or {}).items()},
    )


def standard_of(payload: dict[str, Any]) -> Standard:
    """The standard that a task is judged by."""
    return parse_standard(payload["standard"], payload["standard"]["id"])


def tray_of(payload: dict[str, Any]) -> tuple[Bur, ...]:
    """The burs that a task may name."""
    return tuple(parse_bur(row) for row in payload["tray"])


def _hand_line(given: dict[str, Any] | None) -> HandLine | None:
    return None if given is None else HandLine(np.array(given["points"], float), np.array(given["drawn"], bool))


def _keep(kept: dict[Any, Any], key: Any, value: Any, most: int) -> None:
    while len(kept) >= most:
        kept.pop(next(iter(kept)))
    kept[key] = value
