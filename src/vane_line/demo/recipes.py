"""What the demo's cases are made from: teeth, cuts and how they were scanned."""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from typing import Any

from vane_line.demo.arch import GAP_MM
from vane_line.demo.back import BackCut, Drilled
from vane_line.demo.burs import AxialCut, FrontCut, OcclusalCut, Profile, Spared, bump, chatter, constant, step
from vane_line.demo.cavity import Cavity, Cover, Stroke
from vane_line.demo.partial import Furrow, OpenFace
from vane_line.demo.scanner import ScanSettings
from vane_line.demo.slices import AllRound, Slices
from vane_line.demo.window import FaceCut, MockUp


@dataclass(frozen=True, eq=False)
class Recipe:
    """All that makes a case: where, how it was cut, and how it was scanned.

    A crown is cut by `occlusal` and `axial`, a partial crown by these and what is left `standing`, an inlay or onlay by
    `cavity`, a veneer by `face`, a casting held by pins by `back`, a child's tooth by `slices`.
    """

    code: str
    tooth: str  # FDI
    material: str
    occlusal: OcclusalCut | FrontCut | None = None
    axial: AxialCut | None = None
    standing: OpenFace | None = None
    cavity: Cavity | None = None
    face: FaceCut | None = None
    mock: MockUp | None = None
    slices: Slices | AllRound | None = None
    back: BackCut | None = None
    across: int = 0  # teeth that are drawn of the other side of the arch
    midline_mm: float | None = None  # between the central incisors, where it is not as between the others
    gap_mm: float = GAP_MM
    tooth_scale: float = 1.0
    nick_mm: float = 0.0  # depth of a nick in the distal neighbour
    edge_round_mm: float = 0.22
    scan: ScanSettings = field(default_factory=ScanSettings)
    same_frame: bool = False
    bite_with: str = "prep"  # which scan's coordinates the opposing scan comes in
    earlier_seed: int = 0  # shared by attempts whose earlier scan is the same
    stray: bool = True
    mm_per_unit: float = 1.0
    cervical_gingiva_mm: float = 0.55
    missing: tuple[str, ...] = ()  # teeth of the arch that were lost, by position: "6"
    tip_deg: float = 0.0  # the tooth's lean to mesial, into the gap that a lost neighbour left
    bulk_mm: float = 0.0  # by which an old crown stood outside the tooth
    papilla_mm: float = 1.3
    worn_mm: float = 0.0  # worn flat off the highest cusp before anything was cut
    bridging_mm: float = 0.25  # how wide the scanner's software fills a narrow contact
    core_mm: Profile | None = None  # height of a core's border over the finish line
    also: tuple[Recipe, ...] = ()  # other teeth that were cut with it: of these only where and how
    lost: tuple[str, ...] = ()  # by position, teeth whose place stands open, the others where they stood
    ridge_mm: float | None = None  # height of the gingiva over the necks where a tooth was lost
    grown_mm: tuple[tuple[str, float], ...] = ()  # opposing teeth by position, grown into the space
    crossbite: bool = False  # the lower teeth stand outside the upper ones
    taller_mm: tuple[tuple[str, float], ...] = ()  # by cusp: how much taller than drawn
    stout_mm: float = 0.0  # by which a front tooth is thicker behind than drawn
    overjet_mm: float | None = None  # of front teeth as they stand before they erupt, where it is not the usual
    behind_mm: tuple[tuple[str, float], ...] = ()  # opposing teeth by position: how far behind those they would meet


def timid_first_molar(attempt: int = 1, seed: int = 36) -> Recipe:
    """36 for a lithium disilicate crown, cut a little timidly; the second attempt mends most of it."""
    first = attempt == 1
    depth = {
        "mesiofacial": 1.84, "distofacial": 1.57, "distal": 1.50, "mesiolingual": 1.54 if first else 1.58,
        "distolingual": 0.1 if first else 1.40, "central-groove": 1.55 if first else 1.62,
        "facial-groove": 0.76 if first else 1.35, "lingual-groove": 1.35, "marginal-ridge": 1.35, "other": 1.4,
    }  # fmt: skip
    height = following_papillae(1.35)
    taper = constant(6.0)
    shoulder = constant(1.05)
    lip = None
    if first:
        height = chatter(step(height, 222, 260, 0.45), 310, 346, 0.12, 8.0)
        taper = bump(taper, 45, 17, -10.3)
        lip = bump(constant(0.0), 150, 22, 0.24)
    return Recipe(
        code=f"SM-0147-{attempt}",
        gap_mm=0.03,
        tooth="36",
        material="lithium-disilicate",
        occlusal=OcclusalCut(depth),
        axial=AxialCut(height, shoulder, taper, tip_radius_mm=0.35, lip_mm=lip),
        nick_mm=0.18,
        scan=ScanSettings(seed=seed + attempt),
        bite_with="preop",
        earlier_seed=seed,
    )


def tipped_second_molar(seed: int = 47) -> Recipe:
    """47 for a zirconia crown, leaning 20 degrees into the gap of the lost 46: cut along its own axis, much tapered."""
    taper = bump(bump(constant(7.0), 90, 120, 11.2), 270, 110, 7.0)
    return Recipe(
        code="SM-0212",
        tooth="47",
        material="zirconia",
        occlusal=OcclusalCut({"other": 1.6}),
        axial=AxialCut(following_papillae(0.85, 0.35), constant(0.85), taper, tip_radius_mm=0.35),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
        missing=("6",),
        tip_deg=20.0,
    )


def lower_lateral_incisor(seed: int = 32) -> Recipe:
    """32, an old metal-ceramic crown to be replaced in zirconia: a sound ledge, and too little off the face's upper
    third, which was left in one plane."""
    depth = {"incisal-edge": 1.6, "facial/incisal": 0.25, "facial/middle": 0.75, "facial/cervical": 0.7,
             "lingual-fossa": 0.5}  # fmt: skip
    shoulder = bump(constant(0.45), 0, 60, 0.03)

    return Recipe(
        code="SM-0231",
        tooth="32",
        material="zirconia",
        occlusal=FrontCut(depth),
        axial=AxialCut(following_papillae(1.3, 1.0), shoulder, constant(5.0), tip_radius_mm=0.3),
        bulk_mm=0.12,
        papilla_mm=1.5,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def guiding_lateral(seed: int = 22) -> Recipe:
    """22 beside a lost canine, for layered zirconia: room enough where the teeth rest, but a place behind was spared
    along which a lower incisor slides when the jaw moves to that side."""
    depth = {"incisal-edge": 1.8, "facial/incisal": 1.4, "facial/middle": 1.38, "facial/cervical": 1.2,
             "lingual-fossa": 1.14}  # fmt: skip
    shoulder = bump(constant(1.25), 0, 60, -0.08)
    return Recipe(
        code="SM-0326",
        tooth="22",
        material="layered-zirconia",
        occlusal=FrontCut(depth, edge_mm=0.36, spared=(Spared(0.0, 5.2, 0.9, 0.34),)),
        axial=AxialCut(following_papillae(0.9, 0.6), shoulder, bump(constant(6.0), 0, 75, -4.5), tip_radius_mm=0.4),
        edge_round_mm=0.45,
        gap_mm=0.02,
        papilla_mm=1.5,
        tooth_scale=1.1,
        stout_mm=0.9,
        overjet_mm=3.4,
        behind_mm=(("1", -0.35), ("2", 0.30), ("3", 0.50)),
        lost=("3",),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def worn_premolar(seed: int = 15) -> Recipe:
    """15, worn, root-filled with a core, for lithium disilicate with conventional cement; ferrule short mesially."""
    depth = {"lingual": 1.06, "facial": 2.35, "other": 1.95}
    return Recipe(
        code="SM-0198",
        tooth="15",
        material="lithium-disilicate",
        occlusal=OcclusalCut(depth),
        axial=AxialCut(following_papillae(1.2, 0.5), constant(1.1), constant(6.0), tip_radius_mm=0.35),
        worn_mm=0.7,
        core_mm=bump(constant(2.2), 90, 60, -1.8),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def wide_first_molar_onlay(seed: int = 46) -> Recipe:
    """46, mesio-occlusal onlay in lithium disilicate: the facial cusps covered, a thin mesiolingual one standing, a
    box too near to the neighbour, and a wall that hangs over."""
    floor, box = 3.38, 2.45
    return Recipe(
        code="SM-0260",
        tooth="46",
        material="lithium-disilicate",
        cavity=Cavity(
            strokes=(
                Stroke(((-0.24, 0.0), (0.40, 0.0)), 1.2, floor),
                Stroke(((0.13, -0.06), (0.25, -0.06)), 1.45, floor),  # widened under the mesiolingual cusp
                Stroke(((-0.16, -0.069), (-0.12, -0.069)), 0.8, floor, lean_deg=9.8),  # the lingual wall hangs over
                Stroke(((0.445, -0.04), (0.445, 0.05)), 1.0, box),
                Stroke(((0.58, -0.04), (0.58, 0.05)), 1.0, box),
            ),
            covers=(Cover(2.0, -0.44, 0.60, 1),),
        ),
        bridging_mm=0.10,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def gold_premolar_inlay(seed: int = 14) -> Recipe:
    """14, disto-occlusal inlay for cast gold: narrow, near parallel, as deep as gold wants; nothing is wrong.
    Its contact stood open, which lodged food."""
    floor, box = 5.4, 3.6
    return Recipe(
        code="SM-0255",
        gap_mm=0.25,
        tooth="14",
        material="full-metal",
        cavity=Cavity(
            strokes=(
                Stroke(((-0.40, 0.05), (0.02, 0.05)), 0.78, floor, taper_deg=3.5, end_mm=0.3),
                Stroke(((-0.465, -0.11), (-0.465, 0.12)), 1.22, box, taper_deg=3.5, end_mm=0.3),
                Stroke(((-0.62, -0.11), (-0.62, 0.12)), 1.22, box, taper_deg=3.5, end_mm=0.3),
            ),
        ),
        bridging_mm=0.10,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def mocked_up_centrals(seed: int = 21) -> Recipe:
    """21 and 11 together: the 21 as `mocked_up_central`, the 11 beside it cut as planned, through one mock-up."""
    left = mocked_up_central(seed)
    assert left.face is not None
    assert left.mock is not None
    face = replace(left.face, thirds_mm=(0.40, 0.48, 0.42), side_mm=0.36, scoop_mm=0.0)
    return replace(left, also=(replace(left, tooth="11", face=face, mock=replace(left.mock, wider_mm=0.0)),))


def mocked_up_central(seed: int = 21) -> Recipe:
    """21, veneer in lithium disilicate through a mock-up that lengthens it by 1.2 and closes the gap to 11: cut too
    deep in the cervical third, and its distal end a scoop."""
    return Recipe(
        code="SM-0274",
        tooth="21",
        material="lithium-disilicate",
        face=FaceCut(
            thirds_mm=(0.62, 0.48, 0.42),
            side_mm=0.38,
            incisal_mm=0.55,
            neck_mm=0.6,
            papilla_mm=1.5,
            end_share=(0.35, 0.45),
            scoop_mm=1.1,
        ),
        mock=MockUp(longer_mm=1.2, fuller_mm=0.25, wider_mm=0.6),
        across=2,
        midline_mm=0.65,
        gap_mm=0.06,
        bridging_mm=0.10,
        papilla_mm=1.5,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def crossed_premolar(seed: int = 24) -> Recipe:
    """24 in crossbite, veneer in lithium disilicate, wrapped over the facial cusp, which bites into the lower teeth:
    cut as planned."""
    return Recipe(
        code="SM-0283",
        tooth="24",
        material="lithium-disilicate",
        face=FaceCut(
            thirds_mm=(0.36, 0.58, 0.74), side_mm=0.34, incisal_mm=1.75, neck_mm=0.95, papilla_mm=0.8,
            end_share=(0.55, 0.58), over_share=0.12,
        ),
        taller_mm=(("facial", 0.29),),
        gap_mm=0.06,
        bridging_mm=0.10,
        crossbite=True,
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )  # fmt: skip


def child_s_second_molar(seed: int = 55) -> Recipe:
    """55 for a preformed metal crown, the row spaced as often in children: a ledge is left at the distal neck."""
    return Recipe(
        code="SM-0296",
        tooth="55",
        material="preformed-metal",
        slices=Slices(occlusal_mm=1.3, side_mm=1.0, ledge_mm=0.45),
        gap_mm=0.45,
        scan=ScanSettings(
            seed=seed, tilt_deg=74.0, tilts=(0.12, 0.25, 0.5, 1.0)
        ),  # led round the neck, under the bulge
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
        cervical_gingiva_mm=0.35,
        papilla_mm=0.9,
    )


def child_s_central(seed: int = 51) -> Recipe:
    """51 for a preformed zirconia crown, among spaced primary teeth: even all round, too little off the edge."""
    return Recipe(
        code="SM-0301",
        tooth="51",
        material="preformed-zirconia",
        slices=AllRound(incisal_mm=1.6, side_mm=(1.25, 0.75, 1.15)),
        across=2,
        gap_mm=0.5,
        midline_mm=0.5,
        scan=ScanSettings(seed=seed, tilt_deg=74.0, tilts=(0.12, 0.25, 0.5, 1.0)),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
        cervical_gingiva_mm=0.35,
        papilla_mm=0.9,
    )


def pinned_lateral(seed: int = 12) -> Recipe:
    """12, eroded behind, for a casting held by two pins: the distal one leans by 4 degrees and stands too near the
    side, and there is little room behind."""
    return Recipe(
        code="SM-0288",
        tooth="12",
        material="full-metal",
        back=BackCut(
            holes=(Drilled(0.30, to_facial_deg=-4.0), Drilled(-0.37, to_mesial_deg=4.0, to_facial_deg=-4.0)),
            ledge_share=0.56,
            neck_mm=2.7,
            papilla_mm=0.6,
            end_share=-0.12,
            pins_mm=4.5,
        ),
        gap_mm=0.15,
        bridging_mm=0.10,
        papilla_mm=1.5,
        scan=ScanSettings(seed=seed, grid_mm=0.12),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def open_faced_molar(seed: int = 26) -> Recipe:
    """26 for a gold partial crown on a tooth whose gingiva has drawn back: the face stands, the distal groove is as it
    should be, the mesial one too shallow, for the bur was afraid of the pulp."""
    return Recipe(
        code="SM-0319",
        tooth="26",
        material="full-metal",
        occlusal=OcclusalCut(
            {
                "mesiolingual": 1.7,
                "distolingual": 1.7,
                "mesiofacial": 1.0,
                "distofacial": 1.0,
                "marginal-ridge": 1.5,
                "other": 1.3,
            }
        ),
        axial=AxialCut(following_papillae(0.45, 0.25), constant(0.6), constant(4.0), tip_radius_mm=0.3),
        standing=OpenFace(furrows=(Furrow(1.0, deep_mm=0.6, ends_mm=1.1), Furrow(-1.0, ends_mm=1.1))),
        gap_mm=0.3,
        bridging_mm=0.1,
        cervical_gingiva_mm=0.0,
        papilla_mm=0.4,
        scan=ScanSettings(seed=seed, grid_mm=0.14),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def bridge_abutments(seed: int = 35) -> Recipe:
    """35 and 37 for a zirconia bridge over the lost 36: the 37 leans into the space, and the 26 has grown down into it.
    Each was cut true to its own axis, so that no one path clears both."""
    leaning = bump(bump(constant(6.0), 0, 60, 3.0), 180, 60, 3.0)
    front = Recipe(
        code="SM-0310",
        tooth="35",
        material="zirconia",
        occlusal=OcclusalCut({"other": 1.4}),
        axial=AxialCut(following_papillae(1.0, 0.5), constant(0.85), leaning, tip_radius_mm=0.35),
        edge_round_mm=0.5,
    )
    return replace(
        front,
        tooth="37",
        occlusal=OcclusalCut({"other": 1.4}),
        axial=AxialCut(bump(constant(0.5), 90, 90, 0.8), constant(0.85), leaning, tip_radius_mm=0.35),
        also=(front,),
        lost=("6",),
        tip_deg=6.8,
        ridge_mm=-0.2,
        grown_mm=(("6", 1.1),),
        scan=ScanSettings(seed=seed),
        earlier_seed=seed,
        bite_with="preop",
        stray=False,
    )


def following_papillae(level_mm: float, rise_mm: float = 0.85) -> Profile:
    """A finish line that rises with the gingiva between the teeth."""
    return bump(bump(constant(level_mm), 90, 48, rise_mm), 270, 48, rise_mm)


def sound_recipe(tooth: str, material: str, seed: int = 1, **changes: Any) -> Recipe:
    """A preparation cut to target all round, for tests and plans."""
    depth = {"other": 1.5}
    recipe = Recipe(
        code=f"SM-{tooth}",
        tooth=tooth,
        material=material,
        occlusal=OcclusalCut(depth),
        axial=AxialCut(following_papillae(1.35), constant(1.0), constant(6.0), tip_radius_mm=0.35),
        scan=ScanSettings(seed=seed),
        stray=False,
    )
    return replace(recipe, **changes)
