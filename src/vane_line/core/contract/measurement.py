"""`vane-line/measurement/1`, key by key, in the order of writing. Keys may be added; none changes its meaning."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.bite_rows import ClearanceRow, ContactRow, MovementRow, RaiseRow
from vane_line.core.contract.kind_rows import BudgetRow, CavityRow, ChannelRow, ChildRow, VeneerRow
from vane_line.core.contract.row import Matrix, Pair, Row, Vector

SCHEMA: Literal["vane-line/measurement/1"] = "vane-line/measurement/1"
Status = Literal["meets", "within-uncertainty", "short", "over", "not-measured"]


class StandardName(Row):
    id: str
    version: int


class FrameRow(Row):
    occlusal: Vector
    facial: Vector
    mesial: Vector
    confidence: float = Field(description="0..1")


class AlignmentRow(Row):
    matrix: Matrix = Field(description="4 x 4, mm, column vectors, scan to prep scan")
    rms_mm: float | None
    p95_mm: float | None
    stable_area_mm2: float | None
    u_align_um: float | None
    trusted: bool
    why: str = Field(description="why it is not trusted, else empty")


class AlignmentRows(Row):
    preop: AlignmentRow | None
    opposing: AlignmentRow | None
    mockup: AlignmentRow | None


class PathRow(Row):
    direction: Vector
    least_draft_deg: float | None
    source: Literal["best", "given"]
    blocked_by: Literal["mesial", "distal"] | None
    draft_deg: dict[str, float] = Field(description="least draft of each side's wall, by side; without a wall none")


class LineSampleRow(Row):
    s_mm: float
    azimuth_deg: float
    width_mm: float | None
    cavosurface_deg: float | None
    inner_radius_mm: float | None
    lip_mm: float | None
    height_mm: float | None
    form: str | None = Field(description="chamfer, heavy-chamfer, shoulder, feather …")
    defined: bool


class Spread(Row):
    low: float
    median: float
    high: float


class Roughness(Row):
    vertical: float | None
    horizontal: float | None
    worst: float | None = Field(description="of the worst 2.5 mm")


class StepRow(Row):
    azimuth_deg: float
    sector: str
    height_mm: float
    at: Vector
    overlap_deg: Pair | None = Field(description="from, to, where two stretches pass each other; else null")


class Stretch(Row):
    from_deg: float
    to_deg: float


class Lip(Stretch):
    height_mm: float


class Band(Stretch):
    width_mm: float = Field(description="of the band in which the line lies, where no edge is told")


class MarginRow(Row):
    azimuth_deg: float
    above_gingiva_mm: float | None
    room_mm: float | None = Field(description="to the next tooth")


class FinishLineRow(Row):
    axis: Vector = Field(
        description="about which azimuth is told: the path, for a ring and a cavity; the facial direction, for a window"
    )
    closed: bool
    length_mm: float
    points: list[Vector] = Field(description="from azimuth 0, rising, first not repeated")
    doubtful: list[bool] = Field(description="one flag a point: no clear finish line is seen there")
    drawn: list[bool] = Field(description="one flag a point: by hand")
    bands: list[Band]
    margin: list[MarginRow]
    gingiva_source: Literal["drawn", "earlier scan"] | None
    samples: list[LineSampleRow] = Field(description="every 0.1 mm")
    width_mm: Spread | None
    roughness_um: Roughness
    steps: list[StepRow]
    gaps: list[Stretch]
    lips: list[Lip]


class ZoneRow(Row):
    zone: str
    low_mm: float | None
    median_mm: float | None
    high_mm: float | None
    area_mm2: float
    area_unseen_mm2: float
    worst: Vector | None
    area_short_mm2: float | None


class ReductionRow(Row):
    reference: Literal["preop", "mockup"] | None
    overall: ZoneRow
    zones: list[ZoneRow]
    cement_space_mm: float | None


class TaperRow(Row):
    azimuth_deg: float
    taper_deg: float | None
    wall_height_mm: float | None
    second_plane_deg: float | None


class ConvergenceRow(Row):
    faciolingual_deg: float | None
    mesiodistal_deg: float | None
    by_azimuth: list[TaperRow]


class UndercutRegion(Row):
    sector: str
    max_depth_mm: float
    area_mm2: float
    at: Vector
    blockout_mm3: float
    overhang: Vector = Field(description="the place that hangs over it most")
    remove_mm: float | None
    tilt_deg: float | None = Field(description="of the path, to clear it; null where another wall would lock")


class UndercutRow(Row):
    area_mm2: float
    max_depth_mm: float
    blockout_mm3: float
    regions: list[UndercutRegion]


class EdgeRun(Row):
    at: Vector
    sector: str
    azimuth_deg: float
    length_mm: float
    radius_mm: float | None
    overcut_mm: float | None


class EdgesRow(Row):
    bur_radius_mm: float
    length_mm: float
    sharpest_radius_mm: float | None
    overcut_mm: float | None
    runs: list[EdgeRun]


class SideResistance(Row):
    taper_deg: float | None
    limiting_taper_deg: float | None
    held_by_groove: str | None = Field(None, description="the wall of the groove that holds where this one does not")


class ResistanceRow(Row):
    height_mm: float | None
    base_faciolingual_mm: float | None
    base_mesiodistal_mm: float | None
    limiting_taper_deg: float | None
    resists: bool | None
    resisting_share: float | None
    by_side: dict[str, SideResistance]
    remaining_mm: float | None
    remaining_halfway_mm: float | None
    neck_mm: float | None


class FerruleSector(Row):
    sector: str
    height_mm: float | None
    thickness_mm: float | None
    at: Vector | None


class CuspRow(Row):
    cusp: str
    shift_mm: float | None
    at: Vector


class AnatomyRow(Row):
    cusps: list[CuspRow] | None = Field(description="of a back tooth")
    occlusal_form: str | None
    slope_correlation: float | None
    planes_deg: list[float] | None = Field(description="of a front tooth")
    set_back_mm: float | None
    concavity_mm: float | None
    edge_lowered_mm: float | None = Field(
        description="along the path, of the middle of a front tooth's edge, under what the restoration will be"
    )


class PlannedRow(Row):
    earlier: str
    space_to: str
    lift_mm: float = Field(description="by which the planned surface stands over the earlier one")
    raise_: RaiseRow | None = Field(alias="raise", description="an increased vertical dimension")


class FunctionalRow(Row):
    side: str | None
    source: str


class NeighbourRow(Row):
    side: Literal["mesial", "distal"]
    nick_depth_mm: float | None
    area_mm2: float | None
    gap_mm: float
    at: Vector | None
    hidden_mm2: float | None
    room_mm: float | None = Field(description="just above the finish line")
    why: str


class UncertaintyRow(Row):
    u_scan_um: float
    U_mm: float


class VerdictRow(Row):
    criterion: str
    zone: str
    bound: Literal["min", "max"]
    value: float | None
    unit: str
    U: float | None
    limit: float | None
    target: float | None
    status: Status
    missing: float | None = Field(description="limit - value")
    to_target: float | None = Field(description="target - value")
    why: str
    source: str
    at: Vector | None
    where: str = Field(description="the place in the words a dentist uses")
    pose: str | None = Field(description="of the lower jaw, where the value hangs on it: intercuspation, raised")


class CorrectionRow(Row):
    order: int
    stage: str
    key: str = Field(description="criterion and zone")
    where: str
    view: str
    do: str
    bur: str
    hold: str
    beware: str
    refused: str = Field(description="why not, else empty")
    at: Vector | None
    to_min: float | None
    to_target: float | None
    extent: str = Field(description="spot, part, zone")
    area_mm2: float | None


class TimingRow(Row):
    load: float
    align: float
    measure: float
    total: float


class RescanRow(Row):
    what: Literal["hole", "thin", "gingiva", "unseen"]
    where: str
    length_mm: float = Field(description="along the finish line")
    at: Vector
    view: str = Field(description="the side from which it is seen")
    words: str
    do: str


class MeasurementDocument(Row):
    """All that is said of one preparation. What could not be measured is null, and its verdict says why."""

    schema_: Literal["vane-line/measurement/1"] = Field(alias="schema")
    algorithm_version: int
    tooth: str = Field(description="always FDI")
    restoration: str
    material: str
    standard: StandardName
    frame: FrameRow
    alignment: AlignmentRows
    path: PathRow
    finish_line: FinishLineRow
    reduction: ReductionRow | None
    tooth_removed: ReductionRow | None
    convergence: ConvergenceRow | None
    undercut: UndercutRow
    clearance: ClearanceRow | None
    edges: EdgesRow
    resistance: ResistanceRow | None
    ferrule: list[FerruleSector] | None
    anatomy: AnatomyRow | None
    cavity: CavityRow | None = Field(description="of an inlay, onlay or overlay")
    veneer: VeneerRow | None
    channels: list[ChannelRow] | None = Field(
        description="grooves in the walls, pin holes and guide pins; null of a kind that has none"
    )
    budget: BudgetRow | None = Field(description="tooth left beside a pin; null without pins or an earlier scan")
    child: ChildRow | None = Field(description="of a prefabricated child's crown")
    contacts: list[ContactRow] | None = Field(
        description="of the other teeth in the recorded bite, and how they changed since the earlier scan; of this one "
        "before cutting; null without a trusted opposing scan"
    )
    movements: list[MovementRow] | None = Field(description="clearance while the jaw moves, where it was asked for")
    planned: PlannedRow
    functional_side: FunctionalRow
    neighbours: list[NeighbourRow]
    zone_source: Literal["reference", "template"]
    uncertainty: UncertaintyRow
    verdicts: list[VerdictRow]
    corrections: list[CorrectionRow]
    rescan: list[RescanRow] = Field(
        default=[], description="stretches of the finish line that are better scanned again at once, the longest first"
    )
    warnings: list[str]
    timing_s: TimingRow
