"""What the crew's measuring looked like: a photo, a scan, a drawing and solids, made for trying things out."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np

from tailor.core.carried.loft import Array
from tailor.files import atomic

PHOTO_HEIGHT = 25.0  # mm: the whetstone's
SCAN_THICKNESS = 14.0  # mm: the marking gauge's
DRAWING_THICKNESS = 5.0  # mm: the spar hook's
FINE = 200  # dpi of the scan


def write(folder: Path) -> list[Path]:
    """Write them all into a folder; the paths written. caliper.txt is what the caliper said of the eaves blade."""
    from tailor import demo
    from tailor.core.carried.calipers import begin

    said = "".join(f"{p.expected:+08.2f} mm\r\n" for p in begin(demo.job().stations).places)
    kept = {
        "whetstone.jpg": photo(), "marking-gauge.png": scan(), "spar-hook.svg": drawing().encode(),
        "two-way-radio.stl": solid("radio"), "laser-level.stl": solid("laser level"), "caliper.txt": said.encode(),
    }  # fmt: skip
    for name, content in kept.items():
        atomic.write(folder / name, content)
    return [folder / name for name in kept]


def rounded(width: float, length: float, corner: float) -> Array:
    """A rectangle with round corners about the origin, counter-clockwise, (n, 2)."""
    turn = np.linspace(0, np.pi / 2, 13)
    middles = np.array([[1, 1], [-1, 1], [-1, -1], [1, -1]]) * (np.array([width, length]) / 2 - corner)
    arcs = [m + corner * np.column_stack([np.cos(turn + q), np.sin(turn + q)])
            for m, q in zip(middles, np.arange(4) * np.pi / 2, strict=True)]  # fmt: skip
    return np.vstack(arcs)


def photo() -> bytes:
    """The whetstone on the A4 mat: 150 by 50 and 25 mm high."""
    from tailor.standins.camera import Shot, photograph, prism

    a = np.radians(6)
    turned = rounded(50, 150, 3) @ np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]]) + [106, 150]
    return photograph([prism(turned, PHOTO_HEIGHT, (96, 90, 80))], Shot(size=(3000, 2250), tilt=11, focal=28, seed=4))


def scan() -> bytes:
    """The marking gauge on a scanner: a stem with a round head, 178 mm long."""
    import cv2
    from PIL import Image as Photo

    t = np.linspace(0, 1, 60)
    half = 5.5 + 7.5 / (1 + np.exp(-(t - 0.72) * 34)) - 2.5 * np.clip(0.06 - t, 0, 1) / 0.06
    y = 16 + 178 * t
    outline = np.vstack([np.column_stack([52 + half, y]), np.column_stack([52 - half, y])[::-1]])
    px = outline * FINE / 25.4
    paper = np.full((round(210 * FINE / 25.4), round(104 * FINE / 25.4), 3), 243, np.uint8)
    cv2.fillPoly(paper, [np.round(px * 16).astype(np.int32)], (132, 96, 58), cv2.LINE_AA, 4)
    cv2.setRNGSeed(7)
    grain = cv2.add(paper, cv2.randn(np.empty(paper.shape, np.int16), 0, 3), dtype=cv2.CV_8U)
    file = io.BytesIO()
    Photo.fromarray(grain).save(file, "PNG", dpi=(FINE, FINE))
    return file.getvalue()


def drawing() -> str:
    """The spar hook's outline as SVG in mm: a small blade curved on both sides, on its tang."""
    return (
        '<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="220mm" viewBox="0 0 90 220">'
        '<path fill="none" stroke="black" d="M30 12 L58 12 L57 104 C60 128 74 142 71 168 C68 190 50 204 20 206 '
        'C40 194 49 180 47 164 C45 146 31 130 30 104 Z"/></svg>'
    )


def solid(name: str) -> bytes:
    """The two-way radio or the laser level as STL, in mm, standing up."""
    import trimesh

    width, length, thick, edge = {"radio": (58, 118, 36, 6), "laser level": (80, 95, 88, 8)}[name]
    ball = trimesh.creation.icosphere(3, radius=edge).vertices
    places = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)])
    body = np.vstack([ball + m * (np.array([width, thick, length]) / 2 - edge) for m in places])
    made = trimesh.convex.convex_hull(body)
    if name == "radio":
        aerial = trimesh.creation.capsule(height=78, radius=5, count=[24, 24])
        made = trimesh.util.concatenate([made, aerial.apply_translation([17, 0, length / 2 - 20])])
    return bytes(made.export(file_type="stl"))
