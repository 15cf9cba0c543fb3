"""Mutated scan files through the readers: no crash, no hang over five seconds, no memory over a gigabyte, nothing taken
that is no surface. The figures of docs/reliability.md.

Every seed gives the same files; what goes wrong is kept in .cache/fuzz with its seed. Text is mutated as text as well:
numbers turned into what numbers can be at worst, lines doubled, left out, moved.
"""

from __future__ import annotations

import argparse
import gzip
import io
import multiprocessing
import random
import re
import resource
import time
import zipfile
from collections import Counter
from pathlib import Path

import numpy as np

from vane_line.core.mesh.read import read_soup
from vane_line.core.mesh.surface import Surface
from vane_line.core.mesh.weld import weld
from vane_line.core.mesh.write import ascii_stl_bytes, obj_bytes, ply_bytes, stl_bytes
from vane_line.errors import VaneLineError

KEPT = Path(".cache/fuzz")
LONGEST_S, MOST_BYTES = 5.0, 1 << 30
WORST = [b"0", b"-1", b"1e308", b"-1e308", b"1e-320", b"nan", b"inf", b"-inf", b"999999999", b"4294967295",
         b"-2147483648", b"", b"x", b"1,5", b"0x10", b"1e", b"+", b"9" * 400]  # fmt: skip
NUMBER = re.compile(rb"[-+]?\d+(\.\d+)?([eE][-+]?\d+)?")
BATCH = 250
WHOLE, LEAST_LEFT = 1682, 0.98  # triangles of the originals; what is taken with fewer has lost some unsaid


def plate(n: int = 30) -> Surface:
    """A small bowl, some 15 mm wide."""
    at = np.linspace(-7.5, 7.5, n)
    x, y = (g.ravel() for g in np.meshgrid(at, at, indexing="ij"))
    index = np.arange(n * n).reshape(n, n)
    a, b, c, d = (index[s].ravel() for s in (np.s_[:-1, :-1], np.s_[1:, :-1], np.s_[1:, 1:], np.s_[:-1, 1:]))
    faces = np.concatenate([np.stack([a, b, c], axis=1), np.stack([a, c, d], axis=1)])
    return Surface(np.stack([x, y, 0.03 * (x**2 + y**2)], axis=1), faces)


def originals() -> list[tuple[str, bytes]]:
    """The same surface in every format that is read."""
    surface = plate()
    head = ["ply", "format ascii 1.0", f"element vertex {surface.n_vertices}", "property float x", "property float y",
            "property float z", f"element face {surface.n_faces}", "property list uchar int vertex_indices",
            "end_header"]  # fmt: skip
    rows = [" ".join(f"{v:.4f}" for v in place) for place in surface.vertices]
    rows += ["3 " + " ".join(map(str, face)) for face in surface.faces]
    ascii_ply = "\n".join(head + rows) + "\n"
    zipped = io.BytesIO()
    with zipfile.ZipFile(zipped, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("scan.stl", stl_bytes(surface))
    return [
        ("a.stl", stl_bytes(surface)), ("b.stl", ascii_stl_bytes(surface)), ("c.obj", obj_bytes(surface)),
        ("d.ply", ply_bytes(surface)), ("e.ply", ascii_ply.encode()), ("f.stl.gz", gzip.compress(stl_bytes(surface))),
        ("g.zip", zipped.getvalue()),
    ]  # fmt: skip


def mutated(data: bytes, dice: random.Random) -> bytes:
    """One to four changes."""
    out = bytearray(data)
    for _ in range(dice.choice([1, 1, 1, 2, 4])):
        at, size = dice.randrange(max(len(out), 1)), dice.choice([1, 2, 4, 12, 50, 400])
        kind = dice.randrange(9)
        if kind == 0 and out:
            out[at] ^= 1 << dice.randrange(8)
        elif kind == 1:
            out[at : at + size] = dice.randbytes(min(size, 60))
        elif kind == 2:
            del out[at:]
        elif kind == 3:
            del out[at : at + size]
        elif kind == 4:
            out[at:at] = out[at : at + size] * dice.randint(1, 4)
        elif kind == 5:
            out[at:at] = dice.choice([b"\n", b" " * 4000, b"\0" * 80, b"\xff" * 12, b"solid ", b"facet", b"v ", b"f "])
        elif kind == 6:
            out[at : at + 4] = dice.choice([b"\xff\xff\xff\xff", b"\0\0\0\0", b"\0\0\x80\x7f", b"\0\0\xc0\x7f"])
        else:
            found = [m.span() for m in NUMBER.finditer(bytes(out[: 1 << 16]))]
            if found:
                begin, end = dice.choice(found)
                out[begin:end] = dice.choice(WORST)
    return bytes(out)


def tried(seeds: range) -> tuple[Counter[str], float, list[str]]:
    """What became of a batch: counts, the longest in seconds, and what went wrong."""
    base = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    resource.setrlimit(resource.RLIMIT_AS, (base + 3 * MOST_BYTES, resource.RLIM_INFINITY))
    files, told, longest, wrong = originals(), Counter[str](), 0.0, []
    for seed in seeds:
        dice = random.Random(seed)
        name, data = files[seed % len(files)]
        given = mutated(data, dice)
        began = time.perf_counter()
        try:
            soup = read_soup(given, name)
            surface = weld(soup, "mm", name).surface
            bad = (
                surface.n_faces == 0
                or not np.isfinite(surface.vertices).all()
                or surface.faces.max() >= surface.n_vertices
            )
            less = surface.n_faces < LEAST_LEFT * WHOLE
            told["no surface" if bad else "taken in part" if less else "taken"] += 1
            outcome = "no surface" if bad else f"taken in part: {surface.n_faces} of {WHOLE}" if less else ""
        except VaneLineError:
            told["refused in words"] += 1
            outcome = ""
        except Exception as error:  # anything else is a crash
            told["crash"] += 1
            outcome = f"crash: {type(error).__name__}: {error}"
        spent = time.perf_counter() - began
        longest = max(longest, spent)
        if spent > LONGEST_S:
            told["hang"] += 1
            outcome = outcome or f"hang: {spent:.1f} s"
        if outcome:
            KEPT.mkdir(parents=True, exist_ok=True)
            (KEPT / f"{seed}-{name}").write_bytes(given)
            wrong.append(f"{seed} {name}: {outcome}")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 - base
    if peak > MOST_BYTES:
        told["memory"] += 1
    return told, longest, wrong


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--count", type=int, default=100_000)
    parser.add_argument("--first", type=int, default=0)
    parser.add_argument("--processes", type=int, default=2)
    args = parser.parse_args()
    told, longest = Counter[str](), 0.0
    wrong: list[str] = []
    batches = [
        range(k, min(k + BATCH, args.first + args.count)) for k in range(args.first, args.first + args.count, BATCH)
    ]
    with multiprocessing.get_context("spawn").Pool(args.processes, maxtasksperchild=40) as pool:
        for counts, slowest, faults in pool.imap_unordered(tried, batches):
            told, longest, wrong = told + counts, max(longest, slowest), wrong + faults
    print(f"{args.count} mutated files, {dict(told)}; the slowest took {longest:.2f} s")
    print("\n".join(wrong[:40]))


if __name__ == "__main__":
    main()
