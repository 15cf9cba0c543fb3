"""Reduction: how far the preparation lies below the reference tooth, point by point and zone by zone."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

import numpy as np

from vane_line.core.arrays import Bools, Floats, Ints
from vane_line.core.measure.zones import Zones
from vane_line.core.mesh.surface import Surface
from vane_line.core.spread import ordered_quantile
from vane_line.core.vectors import xyz

WORST_AREA_MM2 = 0.10  # the worst spot counts from this size …
WORST_SHARE = 0.01  # … or this share of its zone
SMOOTH_MM = 0.22  # distances are averaged over this radius: spots of 0.1 mm² survive, noise does not
BLUR_VERTICES = 3.0  # to either side, over which a quantile is averaged
UNSEEN_SHARE = 1 / 3  # a zone with more unseen area is not measured
TAUBIN_STEPS = 4


@dataclass(frozen=True)
class ZoneValue:
    """One zone's distances in mm; None where too little of it was seen to say. unresolved_mm, unresolved_high_mm:
    standard uncertainty that the resolution of the scan measured to leaves in the low and in the high."""

    zone: str
    low_mm: float | None
    median_mm: float | None
    high_mm: float | None
    area_mm2: float
    area_unseen_mm2: float
    worst: tuple[float, float, float] | None
    highest: tuple[float, float, float] | None
    unresolved_mm: float = 0.0
    unresolved_high_mm: float = 0.0

    @property
    def measurable(self) -> bool:
        return self.low_mm is not None and self.area_unseen_mm2 <= UNSEEN_SHARE * self.area_mm2


@dataclass(frozen=True, eq=False)
class DistanceField:
    """Distance of each inside vertex (N,), the same averaged over SMOOTH_MM, which were unseen (N,), and by zone.

    tried: what the zones would be were their borders elsewhere: by how much that counts, and each zone's values.
    """

    value: Floats
    smooth: Floats
    unseen: Bools
    zones: list[ZoneValue]
    overall: ZoneValue
    tried: tuple[tuple[float, dict[str, ZoneValue]], ...] = ()

    def u_low(self, zone: str) -> float:
        """Standard uncertainty (mm) of a zone's low, from where the zone ends and from unresolved hollows."""
        here = next(z for z in self.zones if z.zone == zone)
        return float(np.hypot(self._u(zone, "low_mm"), here.unresolved_mm))

    def u_high(self, zone: str) -> float:
        """The same of its high."""
        here = next(z for z in self.zones if z.zone == zone)
        return float(np.hypot(self._u(zone, "high_mm"), here.unresolved_high_mm))

    def _u(self, zone: str, name: str) -> float:
        here = next(getattr(z, name) for z in self.zones if z.zone == zone)
        around = [(say, getattr(t[zone], name)) for say, t in self.tried if zone in t]
        # Each border is tried to both sides: half of the two squares' sum stands for it.
        squares = [(say * (v - here)) ** 2 for say, v in around if v is not None and here is not None]
        return float(np.sqrt(sum(squares) / 2))


def averaged(surface: Surface, values: Floats, known: Bools, radius_mm: float = SMOOTH_MM) -> Floats:
    """(V,) values averaged by area over about `radius_mm`, from known vertices only."""
    steps = surface.passes(radius_mm)
    if steps == 0:
        return values
    both = np.stack([np.where(known, values, 0.0), known.astype(float)], axis=1)
    spread = surface.spread(both, steps)
    once = np.where(known, spread[:, 0] / np.maximum(spread[:, 1], 1e-9), values)
    # What averaging took off a crest or an edge is averaged too and given back: else a low there reads 20 µm high.
    left = surface.spread(np.where(known, values - once, 0.0), steps)
    return once + np.where(known, left / np.maximum(spread[:, 1], 1e-9), 0.0)


def field_of(
    surface: Surface, value: Floats, unseen: Bools, zones: Zones, tried: list[tuple[float, Zones]] | None = None,
    unresolved: Floats | None = None, nudged: Sequence[Zones] = (),
) -> DistanceField:  # fmt: skip
    """Distances with their summary; `tried`: the zones with their borders elsewhere, and how much each counts;
    unresolved: (N,) standard uncertainty of each by the resolution of the scan that is measured to; nudged: the zones
    of a surface that lies a little beside, over which values are averaged."""
    smooth = averaged(surface, value, ~unseen)
    of = _Of(surface, value, smooth, unseen)
    around = tuple((say, {z.zone: z for z in of.rows(other)}) for say, other in tried or [])
    rows = _evened(of.rows(zones, unresolved), [of.rows(other) for other in nudged])
    return DistanceField(value, smooth, unseen, rows, of.overall(rows, unresolved), around)


def _evened(rows: list[ZoneValue], beside: list[list[ZoneValue]]) -> list[ZoneValue]:
    """The mean of each zone's values over its borders as they are and a little beside: with one border alone a single
    place that comes to lie beyond it takes or gives up to 0.02."""

    def mean(zone: ZoneValue, name: str) -> float | None:
        here = getattr(zone, name)
        known = [v for z in others.get(zone.zone, ()) if (v := getattr(z, name)) is not None]
        return here if here is None else float(np.mean([here, *known]))

    others: dict[str, list[ZoneValue]] = {}
    for z in (z for told in beside for z in told):
        others.setdefault(z.zone, []).append(z)
    return [
        replace(z, low_mm=mean(z, "low_mm"), median_mm=mean(z, "median_mm"), high_mm=mean(z, "high_mm")) for z in rows
    ]


def summarise(
    surface: Surface, value: Floats, smooth: Floats, unseen: Bools, zones: Zones, nudged: Sequence[Zones] = ()
) -> tuple[list[ZoneValue], ZoneValue]:
    """Per zone and over all: value below which the worst max(0.1 mm², 1 %) lies, median, and its mirror above.

    surface: the inside part (N vertices); nudged: as of `field_of`. The last one's `low` is the least of the zones
    outside the finish-line band, since in the band the reduction runs out to nought by definition.
    """
    of = _Of(surface, value, smooth, unseen)
    rows = _evened(of.rows(zones), [of.rows(other) for other in nudged])
    return rows, of.overall(rows)


class _Of:
    """Distances put in order once, for all zones: raw and averaged, (N,) each."""

    def __init__(self, surface: Surface, raw: Floats, smooth: Floats, unseen: Bools) -> None:
        self._surface, self._unseen, self._raw, self._smooth = surface, unseen, raw, smooth
        # The vertices as they come, by raw and by averaged distance.
        self._orders = [np.arange(len(raw)), np.argsort(raw), np.argsort(smooth)]

    def rows(self, zones: Zones, unresolved: Floats | None = None) -> list[ZoneValue]:
        """Of each zone, in their order; unresolved: (N,) how uncertain by resolution, where that is asked."""
        parts = [_by_zone(order, zones) for order in self._orders]
        return [self._told(name, unresolved, *(part[k] for part in parts)) for k, name in enumerate(zones.names)]

    def overall(self, rows: list[ZoneValue], unresolved: Floats | None = None) -> ZoneValue:
        """Of all vertices, with the least low of zones' `rows`, as `summarise` tells."""
        whole = self._told("overall", unresolved, *self._orders)
        lows = [z for z in rows if z.measurable and z.zone != "finish-line-band" and z.low_mm is not None]
        if not lows:
            return whole
        least = min(lows, key=lambda z: z.low_mm or 0.0)
        return replace(whole, low_mm=least.low_mm, worst=least.worst, unresolved_mm=0.0)

    def _told(self, name: str, unresolved: Floats | None, mask: Ints, by_raw: Ints, by_smooth: Ints) -> ZoneValue:
        """Of the same vertices in three orders."""
        area, unseen = self._surface.vertex_areas, self._unseen
        seen = mask[~unseen[mask]]
        total, told, number = float(area[mask].sum()), float(area[seen].sum()), len(seen)
        hidden = float(area[mask[unseen[mask]]].sum())
        if told < WORST_AREA_MM2 or hidden > UNSEEN_SHARE * total:
            return ZoneValue(
                zone=name, low_mm=None, median_mm=None, high_mm=None, area_mm2=total, area_unseen_mm2=hidden,
                worst=None, highest=None,
            )  # fmt: skip
        share = min(0.5, max(WORST_AREA_MM2, WORST_SHARE * total) / told)
        blur = min(share / 2, BLUR_VERTICES / number)
        rising = by_smooth[~unseen[by_smooth]]
        values, areas = self._smooth[rising], area[rising]
        middle = by_raw[~unseen[by_raw]]
        return ZoneValue(
            zone=name,
            low_mm=ordered_quantile(values, areas, share, blur),
            median_mm=ordered_quantile(self._raw[middle], area[middle], 0.5, min(0.25, BLUR_VERTICES / number)),
            high_mm=-ordered_quantile(-values[::-1], areas[::-1], share, blur),
            area_mm2=total,
            area_unseen_mm2=hidden,
            worst=xyz(self._surface.vertices[rising[0]]),
            highest=xyz(self._surface.vertices[rising[-1]]),
            unresolved_mm=0.0 if unresolved is None else _left_open(unresolved, rising, areas, share * told),
            unresolved_high_mm=(
                0.0 if unresolved is None else _left_open(unresolved, rising[::-1], areas[::-1], share * told)
            ),
        )


def _left_open(unresolved: Floats, rising: Ints, areas: Floats, worst_mm2: float) -> float:
    """How uncertain the worst spot is by resolution, with a little round it: it is told by about so much."""
    spot = rising[np.cumsum(areas) <= 2 * worst_mm2]
    return float(unresolved[spot if len(spot) else rising[:1]].mean())


def _by_zone(order: Ints, zones: Zones) -> list[Ints]:
    """The vertices of each zone, in the `order` (N,) that they come in."""
    zone = zones.index[order].astype(np.int16)  # which are sorted without comparing
    grouped = np.argsort(zone, kind="stable")
    first = np.searchsorted(zone[grouped], np.arange(len(zones.names) + 1))
    return [order[grouped[a:b]] for a, b in pairwise(first)]


def area_below(surface: Surface, field: DistanceField, zones: Zones, name: str, limit: float) -> float:
    """Seen area (mm²) of a zone, or of 'overall', that lies below `limit`."""
    mask = np.ones(len(field.value), dtype=bool) if name == "overall" else zones.mask(name)
    return float(surface.vertex_areas[mask & ~field.unseen & (field.smooth < limit)].sum())
