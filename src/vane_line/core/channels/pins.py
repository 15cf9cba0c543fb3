"""Pins and their holes as channels: direction, depth, cover and ledge of each."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from vane_line.core.arrays import Floats
from vane_line.core.channels.channel import HOLE, PIN, Channel
from vane_line.core.channels.cover import cover
from vane_line.core.channels.guide_pins import Pin
from vane_line.core.channels.holes import Hole, View, find_holes, floor_beside, look
from vane_line.core.mesh.surface import Surface
from vane_line.core.trace.section import Axes
from vane_line.core.vectors import degrees_between, xyz

MIDDLE_MM = 0.5  # a pin no further to one side than this stands in the middle of the back
ASSUMED_MM = 2.0  # of a hole whose depth nobody knows: its cover is told over the least depth taught
IN_PIN_MM = 0.6


def find_pins(
    inside: Surface, outside: list[Surface], pins: tuple[Pin, ...], gauge: dict[str, float], axes: Axes
) -> list[Channel]:  # fmt: skip
    """From mesial to distal. inside: the cut as scanned; outside: what was left of the tooth as it was. gauge:
    depths entered, by side. axes: along the path, about the tooth."""
    view = look(inside, axes)
    found = [_of_pin(pin, inside, view) for pin in pins]
    feet = np.array([p.foot for p in pins]).reshape(-1, 3)
    for hole in find_holes(inside, view):
        if not len(feet) or np.linalg.norm(feet - hole.rim, axis=1).min() > IN_PIN_MM:
            found.append(_of_hole(hole, axes))
    out = []
    for channel, rim in found:
        depth = gauge.get(channel.side)
        if depth is not None:
            channel = replace(channel, depth_mm=depth, depth_is_least=False)
        deep = channel.depth_mm if channel.depth_mm is not None else ASSUMED_MM
        told = cover(rim, rim - deep * channel.direction, channel.diameter_mm / 2, outside)
        if told is not None:
            channel = replace(channel, cover_mm=told[0], way_out=xyz(told[1]))
        out.append(channel)
    return sorted(out, key=lambda c: -float((np.array(c.at) - axes.origin) @ axes.quarter))


def _side(place: Floats, axes: Axes) -> str:
    across = float((place - axes.origin) @ axes.quarter)
    if abs(across) < MIDDLE_MM:
        return "lingual"
    return "mesial" if across > 0 else "distal"


def _of_pin(pin: Pin, inside: Surface, view: View) -> tuple[Channel, Floats]:
    cone, axes = pin.cone, view.axes
    channel = Channel(
        kind=PIN, side=_side(pin.foot, axes), direction=cone.direction,
        to_path_deg=float(degrees_between(cone.direction, axes.up)),
        diameter_mm=2 * cone.radius_mm, depth_mm=None, length_mm=pin.length_mm, at=xyz(pin.foot),
        middle=(pin.foot + pin.end) / 2, depth_is_least=True,
        floor=floor_beside(inside, pin.foot, cone, view),
    )  # fmt: skip
    return channel, pin.foot


def _of_hole(hole: Hole, axes: Axes) -> tuple[Channel, Floats]:
    """No scanner sees a hole's bottom for certain: what it shows is the least that it is deep."""
    cone = hole.cone
    channel = Channel(
        kind=HOLE, side=_side(hole.rim, axes), direction=cone.direction,
        to_path_deg=float(degrees_between(cone.direction, axes.up)),
        diameter_mm=2 * cone.radius_mm, depth_mm=hole.depth_mm, length_mm=hole.depth_mm, at=xyz(hole.rim),
        middle=(hole.rim + hole.bottom) / 2, depth_is_least=True, floor=hole.floor,
    )  # fmt: skip
    return channel, hole.rim
