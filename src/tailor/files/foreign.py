"""What other programs write: outlines in SVG and DXF, solids in STL, OBJ and PLY. Read only through guarded.py."""

from __future__ import annotations

import io
import re
from collections.abc import Callable, Iterator, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any
from xml.etree import ElementTree as ET

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.units import INCH
from tailor.files.guarded import Arrays

PX = INCH / 96  # mm: a pixel of SVG and CSS
FINE = 0.02  # mm within which curves are followed
MEET = 0.02  # mm within which two ends meet
MOST_POINTS = 2_000_000
DXF_UNITS = {1: INCH, 2: 12 * INCH, 4: 1.0, 5: 10.0, 6: 1000.0, 8: INCH / 1e6, 9: INCH / 1000, 13: 1e-3, 14: 100.0}
PHYSICAL = re.compile(r"\s*[\d.eE+-]+\s*(mm|cm|in|pt|pc|px|q)\s*$", re.IGNORECASE)


def svg(path: Path) -> Arrays:
    """The closed lines of an SVG file, mm, the largest first; `scale` is 0 where the file states no unit."""
    return _loops(*_svg(path))


def svg_lines(path: Path) -> Arrays:
    """Every line of an SVG file, open or closed, mm; a file that states no unit is taken to be in CSS pixels."""
    lines, scale = _svg(path)
    return _every([line * (PX if scale == 0.0 else scale) for line in lines])


def _svg(path: Path) -> tuple[list[Array], float]:
    """The lines of an SVG file, y up, in its own unit, and the mm of that; 0 where it states none."""
    from svgelements import SVG, Shape
    from svgelements import Path as Drawn

    text = path.read_bytes()
    if b"<!ENTITY" in text or b"<!entity" in text:
        raise InputError("it defines entities, which a drawing has no need of", "svg", "save it again as plain SVG")
    try:
        root = ET.fromstring(text)
    except ET.ParseError as error:
        row, column = error.position
        raise InputError(
            f"it breaks off or is damaged at line {row}, column {column}", "svg", "save it again"
        ) from None
    if root.tag.split("}")[-1] != "svg":
        raise InputError("it is not an SVG drawing", "svg", "save it again as SVG")
    known = PHYSICAL.match(root.get("width", "")) is not None
    if not known:
        box = root.get("viewBox", "").replace(",", " ").split()
        for name, side in zip(("width", "height"), box[2:4], strict=False):
            root.set(name, side)
    drawing = SVG.parse(io.BytesIO(ET.tostring(root)), reify=True, ppi=96.0)
    fine = FINE / PX if known else FINE
    lines = [
        points
        for shape in drawing.elements()
        if isinstance(shape, Shape) and shape.values.get("display") != "none"
        for sub in Drawn(shape).as_subpaths()
        for points in _svg_line(sub, fine)
    ]
    return [p * [1.0, -1.0] for p in lines], PX if known else 0.0  # y runs down in SVG


def path_lines(drawn: str, fine: float) -> list[Array]:
    """The lines of a path as SVG writes it, in its own unit and way up, its curves followed within so much."""
    from svgelements import Path as Drawn

    return [line for sub in Drawn(drawn).as_subpaths() for line in _svg_line(sub, fine)]


def _svg_line(sub: Any, fine: float) -> Iterator[Array]:
    runs: list[Array] = []
    for segment in sub:
        if type(segment).__name__ == "Move":
            continue
        if type(segment).__name__ in ("Line", "Close"):
            if segment.start is None or segment.end is None:
                continue
            share = np.array([0.0, 1.0])
        else:
            rough = np.asarray(segment.npoint(np.linspace(0, 1, 9)), dtype=float)
            length = float(np.hypot(*np.diff(rough, axis=0).T).sum())
            share = np.linspace(0, 1, int(np.clip(np.sqrt(length / fine) * 2, 8, 400)))
        runs.append(np.asarray(segment.npoint(share), dtype=float).reshape(-1, 2))
    if runs:
        yield np.vstack(runs)


def dxf(path: Path) -> Arrays:
    """The closed lines of a DXF drawing, mm, the largest first; `scale` is 0 where it states no unit."""
    return _loops(*_dxf(path))


def dxf_lines(path: Path) -> Arrays:
    """Every line of a DXF drawing, open or closed, mm; one that states no unit is taken to be in mm."""
    lines, scale = _dxf(path)
    return _every([line * (scale or 1.0) for line in lines])


def _dxf(path: Path) -> tuple[list[Array], float]:
    """The lines of a DXF drawing, in its own unit, and the mm of that; 0 where it states none."""
    import ezdxf
    from ezdxf import disassemble, recover
    from ezdxf.path import make_path

    try:
        document = ezdxf.readfile(path)
    except (ezdxf.DXFStructureError, UnicodeDecodeError):
        try:
            document, _ = recover.readfile(path)
        except ezdxf.DXFStructureError:
            raise InputError("it breaks off or is damaged", "dxf", "save it again as DXF") from None
    except OSError:
        raise InputError("it is not a DXF drawing", "dxf", "save it again as DXF") from None
    scale = DXF_UNITS.get(int(document.header.get("$INSUNITS", 0)), 0.0)
    lines, total = [], 0
    for entity in disassemble.recursive_decompose(document.modelspace()):
        try:
            drawn = make_path(entity)
        except TypeError:  # words, hatches and the like have no path
            continue
        for sub in drawn.sub_paths():
            points = np.array([(v.x, v.y) for v in sub.flattening(FINE / (scale or INCH), segments=8)])
            total += len(points)
            if total > MOST_POINTS:
                raise InputError(f"it has more than {MOST_POINTS} points", "dxf", "leave out everything but the object")
            lines.append(points)
    return lines, scale


def _every(lines: list[Array]) -> Arrays:
    """Lines as they are, mm, without points that nobody could see to be left out; `closed` where one ends where it
    began.
    """
    kept = [p for p in _sound(lines) if np.ptp(p, axis=0).max() > MEET]
    if not kept:
        raise InputError("no line is in it", "drawing", "draw lines, and turn words into their outlines")
    shut = np.array([len(p) > 3 and bool(np.hypot(*(p[0] - p[-1])) <= MEET) for p in kept])
    thin = [shapely.get_coordinates(shapely.simplify(shapely.linestrings(p), FINE)) for p in kept]
    thin = [p[:-1] if closed and len(p) > 3 else p for p, closed in zip(thin, shut, strict=True)]
    return {"points": np.vstack(thin), "ends": np.cumsum([len(p) for p in thin]), "closed": shut}


def _sound(lines: list[Array]) -> list[Array]:
    """The lines that are any, no more of them than can be taken. Raises InputError."""
    lines = [p for p in lines if len(p) > 1]
    if sum(map(len, lines)) > MOST_POINTS:
        raise InputError(f"it has more than {MOST_POINTS} points", "drawing", "leave out everything but the object")
    if any(not np.isfinite(p).all() for p in lines):
        raise InputError("it has a coordinate that is not a number", "drawing", "draw that line again")
    return lines


def _loops(lines: list[Array], scale: float) -> Arrays:
    """Lines as closed loops: closed ones as they are, open ones joined where their ends meet."""
    lines = _sound(lines)
    unit = scale or 1.0
    meet = MEET / unit
    closed = [p for p in lines if len(p) > 2 and np.hypot(*(p[0] - p[-1])) <= meet]
    loose = [p for p in lines if len(p) < 3 or np.hypot(*(p[0] - p[-1])) > meet]
    joined = shapely.line_merge(shapely.multilinestrings([_snapped(p, meet) for p in loose])) if loose else None
    for line in shapely.get_parts(joined) if joined is not None else ():
        points = shapely.get_coordinates(line)
        if len(points) > 2 and np.hypot(*(points[0] - points[-1])) <= meet:
            closed.append(points)
    if not closed:
        raise InputError(
            "no closed line is in it", "drawing", "close the object's outline, so that it ends where it begins"
        )
    area = [abs(float(np.dot(p[:-1, 0], p[1:, 1]) - np.dot(p[1:, 0], p[:-1, 1]))) for p in closed]
    ordered = [closed[k] * unit for k in np.argsort(area)[::-1]]
    ends = np.cumsum([len(p) for p in ordered])
    return {"points": np.vstack(ordered), "ends": ends, "scale": np.array(scale)}


def _snapped(points: Array, meet: float) -> Any:
    """A line whose ends lie on a grid, so that ends that meet are the same."""
    moved = points.copy()
    moved[[0, -1]] = np.round(points[[0, -1]] / meet) * meet
    return shapely.linestrings(moved)


def mesh(path: Path) -> Arrays:
    """The faces of an STL, OBJ or PLY file, in its own unit."""
    import trimesh

    kind = path.suffix.lower().lstrip(".")
    if kind not in ("stl", "obj", "ply"):
        raise InputError(f"'.{kind}' is not a kind of mesh that Tailor reads", "mesh", "give STL, OBJ or PLY")
    found = trimesh.load(path, file_type=kind, force="mesh", process=True, skip_materials=True)
    corners, faces = np.asarray(found.vertices, dtype=float), np.asarray(found.faces, dtype=np.int64)
    if len(faces) == 0:
        raise InputError("it has no faces", "mesh", "export it as a solid, not as points")
    return {"corners": corners, "faces": faces}


def picture(path: Path) -> Arrays:
    """The pixels of a photo or a scan, and what is noted with them."""
    from tailor.files.photos import decoded

    return decoded(path)


def picture_lines(path: Path) -> Arrays:
    """What is drawn on a scan, traced to lines, mm; one that notes no resolution is taken to be so wide as is usual."""
    from tailor.files.photos import decoded
    from tailor.files.scanned import traced

    found = decoded(path)
    return _every(traced(found["pixels"], float(found["dpi"])))


def font_lines(path: Path, words: str) -> Arrays:
    """The outlines of words in a font, as high as is usual, mm."""
    from tailor.files.letters import outlines

    return _every(outlines(path, words))


READERS: Mapping[str, Callable[..., Arrays]] = MappingProxyType({
    "svg": svg, "dxf": dxf, "mesh": mesh, "picture": picture, "svg lines": svg_lines, "dxf lines": dxf_lines,
    "picture lines": picture_lines, "font": font_lines,
})  # fmt: skip
