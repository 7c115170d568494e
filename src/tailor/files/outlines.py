"""Outlines from and to SVG and DXF, and meshes from STL, OBJ and PLY."""

from __future__ import annotations

import io
from collections.abc import Callable
from pathlib import Path
from xml.etree import ElementTree as ET

import numpy as np

from tailor.core.carried import mesh as meshes
from tailor.core.carried import outline as outlines
from tailor.core.carried.loft import Array
from tailor.core.carried.mesh import UNITS, Mesh
from tailor.core.carried.stations import REACH
from tailor.core.errors import InputError
from tailor.core.units import INCH
from tailor.files import atomic, guarded
from tailor.files.linework import LINES

AS_DRAWN = {**UNITS, "px": INCH / 96}
BORDER = 5.0  # mm round a written outline


def read(path: Path, unit: str | None = None, still: Callable[[], object] = bool, reach: float = REACH) -> list[Array]:
    """The closed outlines in an SVG or DXF file, mm, the largest first.

    unit: what the file's lengths are where it does not say. still: as guarded.read has it. reach: mm that they may be
    long. Raises InputError naming the file.
    """
    path = Path(path)
    kind = path.suffix.lower().lstrip(".")
    if kind not in ("svg", "dxf"):
        raise InputError(f"'.{kind}' is not a kind of outline that Tailor reads", path.name, "give SVG or DXF")
    found = guarded.read(kind, path, still)
    scale = 1.0
    if float(found["scale"]) == 0.0:
        if unit is None:
            raise InputError("it does not say its unit", path.name, f"say it: one of {', '.join(AS_DRAWN)}")
        if unit not in AS_DRAWN:
            raise InputError(f"'{unit}' is not a unit", path.name, f"give one of {', '.join(AS_DRAWN)}")
        scale = AS_DRAWN[unit]
    loops = np.split(found["points"] * scale, found["ends"][:-1])
    try:
        smaller = (_sound(loop) for loop in loops[1:200])
        return [outlines.sound(loop, reach) for loop in loops[:1]] + [each for each in smaller if each is not None]
    except InputError as error:
        raise error.within(path.name) from None


def _sound(loop: Array) -> Array | None:
    """A smaller outline, or None where it is only a crumb."""
    try:
        return outlines.sound(loop)
    except InputError:
        return None


def read_mesh(path: Path, still: Callable[[], object] = bool) -> Mesh:
    """A mesh, in its own unit. Raises InputError naming the file."""
    found = guarded.read("mesh", Path(path), still)
    try:
        return meshes.sound(found["corners"], found["faces"])
    except InputError as error:
        raise error.within(Path(path).name) from None


def write(outline: Array, path: Path) -> None:
    """Write an outline (n, 2), mm, as SVG or DXF by the file's name. Raises InputError for another."""
    kind = path.suffix.lower()
    if kind == ".svg":
        atomic.write(path, to_svg(outline).encode())
    elif kind == ".dxf":
        atomic.write(path, to_dxf(outline).encode())
    else:
        raise InputError(f"'{kind}' is not a kind of outline that Tailor writes", path.name, "name it .svg or .dxf")


def to_svg(outline: Array) -> str:
    """An outline as SVG in mm."""
    low, size = outline.min(axis=0) - BORDER, np.ptp(outline, axis=0) + 2 * BORDER
    root = ET.Element(
        "svg", xmlns="http://www.w3.org/2000/svg", width=f"{size[0]:.3f}mm", height=f"{size[1]:.3f}mm",
        viewBox=f"0 0 {size[0]:.3f} {size[1]:.3f}", version="1.1",
    )  # fmt: skip
    joined = " L".join(f"{x - low[0]:.4f},{size[1] - (y - low[1]):.4f}" for x, y in outline)
    pen = {"fill": "none", "stroke": LINES["cut"].colour, "stroke-width": f"{LINES['cut'].width}"}
    ET.SubElement(root, "path", d=f"M{joined} Z", attrib=pen)
    return ET.tostring(root, encoding="unicode") + "\n"


def to_dxf(outline: Array) -> str:
    """An outline as DXF in mm."""
    import ezdxf

    document = ezdxf.new("R2010")
    document.units = ezdxf.units.MM
    document.modelspace().add_lwpolyline(outline.tolist(), close=True)
    text = io.StringIO()
    document.write(text)
    return text.getvalue()
