"""How the jaws meet about the prepared tooth: contacts of the others, a shifted bite, a raised one, movements."""

from __future__ import annotations

from dataclasses import dataclass

from vane_line.core.arrays import Bools, Floats
from vane_line.core.jaw.arch import Name, tooth_about
from vane_line.core.jaw.articulator import Jaw
from vane_line.core.measure.clearance import beside
from vane_line.core.measure.closing import Closing, deepest_closing
from vane_line.core.measure.contacts import Contacts, Gap, find_contacts, gaps_by_tooth
from vane_line.core.measure.finish_line import FinishLine
from vane_line.core.measure.moving import Guides, Moving, clearance_moving
from vane_line.core.mesh.points import any_within
from vane_line.core.mesh.surface import Surface
from vane_line.core.options import Options
from vane_line.core.placed import Placed
from vane_line.core.tooth.frame import Frame
from vane_line.core.trace.section import Axes

SAME_POINT_MM = 0.15  # from a point of a tooth to the same, freed of noise
OFF_MM = 1.0  # from the opposing teeth, teeth together: what stands further off has no part in a raised bite


@dataclass(frozen=True)
class Meeting:
    """contacts: of the other teeth in the bite as it was recorded, and of this one before cutting; closing: where the
    others would close deepest, beside back teeth; raised: how far the others part in a raised bite.

    None without trusted opposing teeth.
    """

    contacts: Contacts | None = None
    closing: Closing | None = None
    raised: tuple[Gap, ...] = ()

    def said(self, frame: Frame) -> list[str]:
        """What a dentist has to be told of it."""
        told = [] if self.contacts is None else self.contacts.said()
        if self.closing is not None and self.closing.shifted:
            told.append(self.closing.said(frame.mesial, frame.facial))
        return told


def meet(
    placed: Placed, options: Options, girth: FinishLine, axes: Axes, opposing: Surface | None,
    earlier: Surface | None = None,
) -> Meeting:  # fmt: skip
    """girth: of the tooth, beyond which others stand; opposing: in the pose that is measured in, where trusted.
    earlier: the tooth before cutting, which may bulge out over its neck, where known."""
    if opposing is None or placed.opposing is None:
        return Meeting()
    prep, recorded, up = placed.scans.prep, placed.opposing, placed.frame.occlusal
    own = ~beside(prep.vertices, girth, axes) | placed.of_others_cut(prep.vertices)
    own_before = None
    if placed.base is not None:
        own_before = ~beside(placed.base.vertices, girth, axes) | placed.of_others_cut(placed.base.vertices)
        if earlier is not None:
            own_before |= _of(earlier, placed.base.vertices)
    _, name = _jaw(placed, options)
    contacts = find_contacts(
        prep, recorded, own, up, placed.base, own_before, opposing_before=placed.opposing_before, name=name
    )
    raised = tuple[Gap, ...]()
    if options.opening is not None:
        no_tooth = own | ~placed.crowns.hold(prep.vertices)
        found = gaps_by_tooth(prep, no_tooth, opposing, up, name)
        # What stood further off before meets nothing, or is gingiva.
        raised = tuple(
            g for g in found
            if g.tooth != options.tooth.fdi
            and g.gap_mm < options.opening.opening_mm(g.tooth[1]) + OFF_MM
        )  # fmt: skip
    # Front teeth overlap: they slide along each other, and the deepest closing says nothing of where they belong.
    closing = None if options.tooth.front else deepest_closing(prep, ~own, recorded, up)
    return Meeting(contacts, closing, raised)


def _of(tooth: Surface, points: Floats) -> Bools:
    """(N,) whether each of `points` (N, 3) is one of a tooth's own, told apart on the scan that they are of."""
    return any_within(points, tooth.vertices, SAME_POINT_MM)


def move_jaw(
    placed: Placed, options: Options, girth: FinishLine, axes: Axes, opposing: Surface, *, points: Floats, rest: Floats
) -> tuple[Moving, ...]:
    """Clearance of the preparation's `points` (N, 3), `rest` (N,) with the teeth together, in the movements asked for.

    The earlier tooth guides too, where it is known; the preparation does not. None where teeth have to guide and too
    few are there.
    """
    assert options.movements is not None
    arch = placed.base if placed.base is not None else placed.scans.prep
    guides = Guides.on(
        arch, placed.frame.occlusal, lambda p: ~beside(p, girth, axes), earlier=placed.base is not None
    )  # fmt: skip
    jaw, name = _jaw(placed, options)
    return clearance_moving(
        points, rest, guides, opposing, jaw, options.movements, upper=options.tooth.upper, name=name
    )  # fmt: skip


def _jaw(placed: Placed, options: Options) -> tuple[Jaw, Name]:
    """The jaw that the tooth stands in, and what tells about which of its teeth a place is."""
    jaw = Jaw.of(placed.frame, placed.centre, options.tooth)
    return jaw, lambda place: tooth_about(place, jaw, options.tooth)
