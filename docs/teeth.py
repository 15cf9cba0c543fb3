"""Draw the contact sheet of all made-up teeth: `python docs/teeth.py`, which writes docs/teeth.png.

Each tooth from its chewing (or incisal) side, its facial side and from behind, in the light of the sheet.
"""

from __future__ import annotations

from pathlib import Path

import numpy as np
from PIL import Image, ImageDraw

from vane_line.core.arrays import AnyArray, Floats
from vane_line.core.mesh.surface import Surface
from vane_line.core.vectors import unit
from vane_line.demo.anatomy import SIZES, Tooth
from vane_line.demo.scanner import surface_of

GRID_MM, PIXELS_PER_MM, CELL = 0.07, 13, (168, 190)
LAMP, FILL = np.array([-0.5, 0.62, 0.6]), np.array([0.7, -0.1, 0.5])
STONE = np.array([0.93, 0.90, 0.83])
# eye, up: occlusal with facial up, facial, lingual from a little above
VIEWS = (((0, 0, 1), (0, 1, 0)), ((0.2, 1, 0.25), (0, 0, 1)), ((0.1, -1, 0.75), (0, 0, 1)))
ACROSS = 2


def picture(surface: Surface, eye: Floats, up: Floats, centre: Floats) -> AnyArray:
    """(H, W, 3) bytes: every vertex as a dot of its shade, the nearest in front."""
    up = unit(up - (up @ eye) * eye)
    frame = np.stack([np.cross(up, eye), up, eye])
    at, normal = (surface.vertices - centre) @ frame.T, surface.vertex_normals @ frame.T
    width, height = CELL
    column = (width / 2 + at[:, 0] * PIXELS_PER_MM).astype(int)
    row = (height / 2 - at[:, 1] * PIXELS_PER_MM).astype(int)
    seen = (normal[:, 2] > 0) & (column >= 0) & (column < width) & (row >= 0) & (row < height)
    lit = [np.clip(normal @ unit(lamp), 0, 1) for lamp in (LAMP, FILL)]
    shade = 0.26 + 0.6 * lit[0] + 0.14 * lit[1] - 0.16 * (1 - np.clip(normal[:, 2], 0, 1)) ** 2
    colour = np.clip(1.18 * shade[:, None] * STONE, 0, 1) ** (1 / 2.2)
    out = np.full((height, width, 3), 0.955)
    order = np.argsort(at[seen, 2])
    out[row[seen][order], column[seen][order]] = colour[seen][order]
    return np.asarray(255 * out, dtype=np.uint8)


def main() -> None:
    numbers = list(SIZES)
    rows = -(-len(numbers) // ACROSS)
    sheet = Image.new("RGB", (ACROSS * len(VIEWS) * CELL[0], rows * CELL[1]), (243, 243, 243))
    pen = ImageDraw.Draw(sheet)
    for k, number in enumerate(numbers):
        tooth = Tooth(number)
        length, md, _, fl, _ = tooth.size
        reach = np.array([md / 2 + 0.8, fl / 2 + 1.2])
        surface = surface_of(tooth, np.r_[-reach, -2.6], np.r_[reach, length + 0.8], GRID_MM)
        left, top = (k // rows) * len(VIEWS) * CELL[0], (k % rows) * CELL[1]
        for n, (eye, up) in enumerate(VIEWS):
            shown = picture(surface, unit(np.array(eye, float)), np.array(up, float), np.array([0, 0, 0.52 * length]))
            sheet.paste(Image.fromarray(shown), (left + n * CELL[0], top))
        pen.text((left + 8, top + 6), number, fill=(29, 38, 36), font_size=18)
        print(number, flush=True)
    sheet.save(Path(__file__).with_name("teeth.png"), optimize=True)


if __name__ == "__main__":
    main()
