"""The contract's rows for a child's prefabricated crown."""

from __future__ import annotations

from vane_line.core.case import Geometry
from vane_line.core.child.fit import Fit
from vane_line.core.child.round import side_depths
from vane_line.core.contract.kind_rows import ChildRow, ChildSide, SizeFit
from vane_line.core.judge.judgement import Judgement
from vane_line.core.kinds.child import ChildCut


def child_row(geometry: Geometry, judgement: Judgement) -> ChildRow | None:
    """Ledge, bulge, taper and the set's sizes; None where the kind is another."""
    cut = geometry.cut
    if not isinstance(cut, ChildCut):
        return None
    fits = cut.fits.get(judgement.standard.material)
    removed, sides = judgement.removed, []
    if removed is not None:
        found = side_depths(geometry.inside, removed.smooth, removed.unseen, geometry.axes)
        sides = [ChildSide(side=s.side, depth_mm=s.depth_mm, at=s.at) for s in found.values()]
    return ChildRow(
        ledge_mm=cut.neck.ledge_mm, ledge_is_least=cut.neck.ledge_is_least,
        cervical_undercut_mm=cut.neck.least_undercut_mm,
        cervical_taper_deg=cut.neck.greatest_taper_deg,
        edge_lowered_mm=cut.edge.mm if cut.edge else None,
        size=fits.chosen.size.name if fits and fits.chosen else None,
        first_try=fits.first.size.name if fits and fits.first else None,
        fits=[_fit(f) for f in fits.all] if fits else [], sides=sides,
    )  # fmt: skip


def _fit(f: Fit) -> SizeFit:
    return SizeFit(
        size=f.size.name, mesiodistal_mm=f.size.mesiodistal_mm, binds_mm=f.binds_mm, snap_mm=f.snap_mm,
        proud_mm=f.proud_mm, rim_mm=f.rim_mm, goes_on=f.goes_on, at=f.at, seat=f.seat.tolist(),
    )  # fmt: skip
