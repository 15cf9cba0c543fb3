"""What a measurement says of one kind of restoration alone: cavities, veneers, castings, children's crowns."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from vane_line.core.contract.row import Matrix, Row, Vector


class OutlineSample(Row):
    s_mm: float
    cavosurface_deg: float | None
    to_contact_mm: float | None = Field(description="to the nearest contact of the opposing teeth")
    defined: bool


class OutlineRow(Row):
    closed: bool
    length_mm: float
    points: list[Vector]
    samples: list[OutlineSample]


class FloorRow(Row):
    depth_low_mm: float | None
    depth_median_mm: float | None
    area_mm2: float
    at: Vector


class CavityWall(Row):
    side: str
    part: str = Field(description="occlusal, box-mesial, box-distal")
    divergence_deg: float
    height_mm: float


class Divergence(Row):
    faciolingual_deg: float | None
    mesiodistal_deg: float | None


class IsthmusRow(Row):
    width_mm: float
    share: float | None
    at: list[Vector] = Field(description="its two ends")


class BoxRow(Row):
    side: str
    depth_mm: float | None
    width_mm: float | None
    below_floor_mm: float | None
    slope_deg: float | None
    contact_clearance_mm: float | None
    at: Vector


class StandingCusp(Row):
    cusp: str
    covered: bool
    base_mm: float | None
    under_tip_mm: float | None
    cover_mm3: float | None = Field(description="tooth that covering it would cost, about, to the material's target")
    at: Vector


class CavityRow(Row):
    outline: OutlineRow
    floor: FloorRow | None
    walls: list[CavityWall]
    divergence: Divergence = Field(description="sums of facing walls of the occlusal part")
    isthmus: IsthmusRow | None
    boxes: list[BoxRow]
    cusps: list[StandingCusp]
    internal_radius_mm: float | None


class IncisalRow(Row):
    form: Literal["window", "feather", "butt", "wrap"]
    reduction_mm: float | None = Field(description="to the planned edge, along the occlusal direction")
    angle_deg: float | None = Field(description="of a butt's facet to the occlusal direction; over 90 it falls behind")
    wrap_length_mm: float | None
    wrap_depth_mm: float | None
    longer_mm: float | None = Field(description="by which the planned edge stands over the one before")
    planned_edge: Vector | None = Field(None, description="the middle of the planned edge")


class ScoopRow(Row):
    side: str = Field(description="mesial, distal, or lingual where the cut wraps over the edge")
    width_mm: float


class EndingRow(Row):
    side: str
    past_contact_mm: float | None = Field(description="along the facial direction; negative: short of the contact")


class SizeFit(Row):
    size: str = Field(description="of the set, 1 the smallest")
    mesiodistal_mm: float
    binds_mm: float = Field(description="by how much the preparation stands beyond its inside, seated")
    snap_mm: float | None = Field(description="contour that its rim is sprung over; null where it does not give")
    proud_mm: float | None = Field(description="over the tooth's height before; null where it does not go on")
    rim_mm: float = Field(description="how far its rim lies over (positive) or below the line")
    goes_on: bool
    at: Vector = Field(description="where it binds most")
    seat: Matrix = Field(
        description="4 x 4, mm, column vectors: from the crown's own coordinates (middle of its rim, mesiodistal width "
        "along x, height along z) to the prep scan's, as far on as it goes"
    )


class ChildSide(Row):
    side: str
    depth_mm: float
    at: Vector


class ChildRow(Row):
    ledge_mm: float
    ledge_is_least: bool = Field(description="the scan ends on it: it may be wider")
    cervical_undercut_mm: float | None = Field(description="greatest contour less the neck, less of facial and lingual")
    cervical_taper_deg: float | None = Field(description="of facing walls to each other, the greater")
    edge_lowered_mm: float | None = Field(description="along the path, of a front tooth's edge; null of a back tooth")
    size: str | None = Field(description="the smallest of the set that goes on; null where none does")
    first_try: str | None = Field(description="the size of the tooth's own width")
    fits: list[SizeFit]
    sides: list[ChildSide] = Field(description="depth under the tooth before, in the middle of each side")


class ChannelRow(Row):
    kind: Literal["groove", "pin-hole", "guide-pin"]
    side: str
    direction: Vector
    to_path_deg: float
    diameter_mm: float
    depth_mm: float | None = Field(
        description="of a groove at half its length, of a hole along its axis; null of a pin"
    )
    depth_is_least: bool = Field(description="a scan does not show the bottom of a hole for certain")
    length_mm: float = Field(description="of a groove; of a hole as it is seen; of a pin as it stands out")
    above_line_mm: float | None = Field(description="of a groove's end over the finish line")
    cover_mm: float | None = Field(description="of tooth from a hole's wall to its nearest way out")
    way_out: Vector | None
    ledge_mm: float | None = Field(description="width of the ledge round a pin")
    ledge_slope_deg: float | None
    at: Vector


class BudgetRow(Row):
    thickness_mm: float = Field(description="from face to back at the ledge's level, before cutting")
    left_mm: float = Field(description="of it over the ledge: where it is least")
    at: Vector


class EnamelRow(Row):
    zone: str
    removed_mm: float | None
    likely_left: bool | None = Field(description="null where the surface before was not a sound tooth's")


class VeneerRow(Row):
    incisal: IncisalRow | None
    planes: int | None
    scoops: list[ScoopRow]
    contact_ending: list[EndingRow]
    enamel: list[EnamelRow]
