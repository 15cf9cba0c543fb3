"""Axes are found from the scan; a wrong tooth number shows; doubt is admitted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from long import first
from solids import Stump, plate, turned

from vane_line.core.mesh.surface import Surface
from vane_line.core.tooth.frame import make_frame
from vane_line.core.tooth.notation import ToothNumber
from vane_line.core.tooth.occlusal import guess_occlusal
from vane_line.demo.arch import stand
from vane_line.demo.cases import MadeCase
from vane_line.demo.scanner import surface_of


def _angle(a: np.ndarray, b: list[float]) -> float:
    return float(np.degrees(np.arccos(np.clip(np.dot(a, b), -1, 1))))


@pytest.mark.long
@pytest.mark.parametrize("tooth", first(1, "16", "45"))
def test_axes_of_real_anatomy_in_any_position(other_teeth: Callable[[str], MadeCase], tooth: str) -> None:
    """Within 8 degrees occlusally and 12 facially, and sure of it, on jaws turned at random."""
    case = other_teeth(tooth)
    assert case.preop is not None
    preop = case.preop.moved(np.array(case.stands["preop_to_prep"]))
    up, sure = guess_occlusal(case.prep)
    frame = make_frame(preop, np.array(case.stands["centre"]), ToothNumber(tooth), up, sure)
    assert _angle(frame.occlusal, case.stands["occlusal"]) < 8
    assert _angle(frame.facial, case.stands["facial"]) < 12
    assert _angle(frame.mesial, case.stands["mesial"]) < 12
    assert frame.sure


def test_the_other_side_s_number_is_noticed(demo_case: MadeCase) -> None:
    """A left tooth called a right one: bend and widths contradict each other, so no certainty is claimed."""
    assert demo_case.preop is not None
    preop = demo_case.preop.moved(np.array(demo_case.stands["preop_to_prep"]))
    up, sure = guess_occlusal(demo_case.prep)
    frame = make_frame(preop, np.array(demo_case.stands["centre"]), ToothNumber("46"), up, sure)
    assert not frame.sure or any("tooth number" in w for w in frame.warnings)


def test_a_given_facial_direction_is_taken_and_squared() -> None:
    """The person's word counts: confidence 1, facial across the occlusal axis, handed by the quadrant."""
    scan = Stump(grid_mm=0.3).prep()
    up = np.array([0.0, 0, 1])
    for number, mesial in (("36", [1.0, 0, 0]), ("46", [-1.0, 0, 0])):
        frame = make_frame(scan, np.zeros(3), ToothNumber(number), up, 0.5, np.array([0.0, 1.0, 0.3]))
        assert frame.confidence == 1.0
        np.testing.assert_allclose(frame.facial, [0, 1, 0], atol=1e-9)
        np.testing.assert_allclose(frame.mesial, mesial, atol=1e-9)


def test_a_plate_has_no_facial_side() -> None:
    """Where nothing tells the side, the confidence is low enough to stop zone verdicts."""
    flat = plate(-10, 10, -10, 10, 0.0)
    assert not make_frame(flat, np.zeros(3), ToothNumber("36"), np.array([0.0, 0, 1]), 1.0).sure


@pytest.mark.parametrize("angle", [0.0, 77.0, 180.0])
def test_occlusal_follows_the_scan_s_motion(angle: float) -> None:
    """Turning the scan turns the guess with it, within 2 degrees."""
    scan = Stump(grid_mm=0.25).prep()
    matrix = turned((2, -1, 1), angle, (5, 5, 5))
    here, _ = guess_occlusal(scan)
    there, _ = guess_occlusal(scan.moved(matrix))
    assert _angle(there, matrix[:3, :3] @ here) < 2.0


def whole_arch(grid_mm: float = 0.4) -> tuple[Surface, np.ndarray]:
    """A lower arch of fourteen made-up teeth with level tops, in a random position, and its true occlusal direction."""
    teeth = stand([f"3{k}" for k in range(1, 8)], "36", upper=False)
    longest = max(p.tooth.size[0] for p in teeth.values())
    teeth = {n: replace(p, origin=p.origin + [0, 0, longest - p.tooth.size[0]]) for n, p in teeth.items()}
    first = teeth["31"]
    turn = np.radians(first.turn_deg)
    across = np.array([np.cos(turn), -np.sin(turn), 0.0])
    middle = first.origin + across * first.tooth.size[1] / 2

    def shape(p: np.ndarray) -> np.ndarray:
        other = p - 2 * ((p - middle) @ across)[:, None] * across
        bodies = [np.minimum(t(p), t(other)) for t in teeth.values()]
        ground = p[:, 2] - (longest - 6.0)
        reach = np.min([np.hypot(*(q - t.origin)[:, :2].T) for t in teeth.values() for q in (p, other)], axis=0)
        return np.minimum(np.minimum.reduce(bodies), np.maximum(ground, reach - 7.0))

    places = np.stack([t.origin for t in teeth.values()])
    places = np.concatenate([places, places - 2 * ((places - middle) @ across)[:, None] * across])
    low, high = places.min(axis=0) - [8, 8, 0], places.max(axis=0) + [8, 8, 0]
    low[2], high[2] = longest - 8.0, longest + 0.6
    surface = surface_of(shape, low, high, grid_mm)
    surface = surface.keep_vertices(surface.vertices[:, 2] > longest - 7.5)[0]
    matrix = turned((1, 2, 0.5), 117.0, (20, -30, 8))
    return surface.moved(matrix), matrix[:3, :3] @ [0, 0, 1.0]


def test_the_occlusal_direction_of_a_whole_arch() -> None:
    """Over a whole arch the tops lie in a plane: within 3 degrees, and sure."""
    arch, up = whole_arch()
    found, sure = guess_occlusal(arch)
    assert _angle(found, up.tolist()) < 3.0
    assert sure > 0.5


def test_the_axes_do_not_jump(demo_case: MadeCase) -> None:
    """Shuffled, turned, with 10 nm of noise: the occlusal direction within 0.02 degrees, the facial within 0.05."""
    assert demo_case.preop is not None
    preop = demo_case.preop.moved(np.array(demo_case.stands["preop_to_prep"]))
    matrix = turned((1, -1, 3), 71.0, (9, 2, -4))
    random = np.random.default_rng(3)
    order = random.permutation(demo_case.prep.n_vertices)
    place = np.empty_like(order)
    place[order] = np.arange(len(order))
    frames = []
    for kind in ("as it is", "shuffled", "turned", "noise"):
        scan, arch, back = demo_case.prep, preop, np.eye(3)
        if kind == "shuffled":
            scan = Surface(scan.vertices[order], place[scan.faces])
        if kind == "turned":
            scan, arch, back = Surface(scan.vertices, scan.faces).moved(matrix), arch.moved(matrix), matrix[:3, :3]
        if kind == "noise":
            scan = scan.with_vertices(scan.vertices + 1e-5 * random.standard_normal(scan.vertices.shape))
        up, sure = guess_occlusal(scan)
        centre = np.array(demo_case.stands["centre"])
        centre = matrix[:3, :3] @ centre + matrix[:3, 3] if kind == "turned" else centre
        frame = make_frame(arch, centre, ToothNumber("36"), up, sure)
        frames.append((frame.occlusal @ back, frame.facial @ back))
    for occlusal, facial in frames[1:]:
        assert _angle(occlusal, frames[0][0].tolist()) < 0.02
        assert _angle(facial, frames[0][1].tolist()) < 0.05


def test_what_a_far_tooth_shows_does_not_turn_the_tooth_at_the_end_of_a_row() -> None:
    """A bent ridge that begins at the tooth, and at its far end, 17 mm away, is twice as broad to the inside or not, as
    a premolar shows its other cusp or hides it: facial turns by less than a degree."""

    def ridge(p: np.ndarray, inward_mm: float) -> np.ndarray:
        off = p[:, 1] + p[:, 0] ** 2 / 45
        broad = np.where(p[:, 0] > 16.0, inward_mm, 0.0)
        return np.maximum.reduce([off - 1.5, -off - 1.5 - broad, -4.5 - p[:, 0], p[:, 0] - 18.5, p[:, 2] - 6.0])

    facial = []
    for inward_mm in (0.0, 3.0):
        scan = surface_of(lambda p, w=inward_mm: ridge(p, w), np.array([-6.0, -16, 0]), np.array([20.0, 4, 8]), 0.3)
        frame = make_frame(scan, np.array([0.0, 0, 5]), ToothNumber("21"), np.array([0.0, 0, 1]), 1.0)
        facial.append(frame.facial)
    assert _angle(facial[0], [0.0, 1, 0]) < 3.0
    assert _angle(facial[0], facial[1].tolist()) < 1.0


def test_the_facial_direction_moves_with_the_row() -> None:
    """A bent ridge of cusps, and a tooth told a twentieth of a millimetre further on each time: what a station of the
    row shows changes by little, and so does the direction, that of the curve there."""

    def row(p: np.ndarray) -> np.ndarray:
        off = p[:, 1] + p[:, 0] ** 2 / 50
        bulge = 0.5 * np.abs(np.sin(p[:, 0] * np.pi / 7))
        return np.maximum.reduce([np.abs(off) - 3.0 - bulge, np.abs(p[:, 0]) - 16.0, p[:, 2] - 6.0])

    scan = surface_of(row, np.array([-18.0, -12, 0]), np.array([18.0, 6, 8]), 0.3)
    turn = []
    for x in np.arange(-0.5, 0.5, 0.05):
        frame = make_frame(scan, np.array([x, -(x**2) / 50, 5]), ToothNumber("36"), np.array([0.0, 0, 1]), 1.0)
        turn.append(float(np.degrees(np.arctan2(frame.facial[0], frame.facial[1]))))
    wanted = np.degrees(np.arctan(2 * np.arange(-0.5, 0.5, 0.05) / 50))
    assert np.abs(np.diff(turn) - np.diff(wanted)).max() < 0.06
    assert np.abs(turn - wanted).max() < 1.0
