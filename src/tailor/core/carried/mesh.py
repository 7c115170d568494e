"""Meshes: a scanned or drawn solid, turned to its draw axis and sliced into stations."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
import scipy
from numpy.typing import NDArray

from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.rows import adaptive
from tailor.core.carried.stations import REACH, Shape, Station, Table, neat
from tailor.core.errors import InputError
from tailor.core.units import INCH

WHERE = "mesh"
UNITS: Mapping[str, float] = MappingProxyType({"mm": 1.0, "in": INCH, "cm": 10.0, "m": 1000.0})
LIKELY = 40.0, 600.0  # mm: how long carried objects mostly are
AXES = np.eye(3)
MOST_FACES = 2_000_000
MOST_OPEN = 0.15  # share of edges that may belong to one face only
SLICES = 320
JUMP = 1.0  # mm from slice to slice: more, and it is sliced closer there
CLOSER = 4  # times over
TRUE_TO = 0.03  # mm within which stations follow the slices
AROUND = np.linspace(0, 2 * np.pi, 72, endpoint=False)
WAYS = np.column_stack([np.cos(AROUND), np.sin(AROUND)])
CLEARLY = 0.99  # of its box: a turn that saves less than this is left
SQUARE = 0.02  # cosine below which two directions are square
MOSTLY = 0.45  # of its surface: flat sides that settle how it stands
FIRST = {
    Shape.SLAB: 0.01,
    Shape.OVAL: 0.0,
    Shape.DIAMOND: 0.02,
    Shape.WEDGE: 0.02,
}  # mm a rarer shape must be better by


@dataclass(frozen=True)
class Mesh:
    """corners: (n, 3), mm once scaled; faces: (m, 3) indices. notes: what was found wrong and put up with."""

    corners: Array
    faces: NDArray[np.int64]
    notes: tuple[str, ...] = ()

    @property
    def extent(self) -> Array:
        return np.asarray(np.ptp(self.corners, axis=0))


def sound(corners: Array, faces: NDArray[np.int64]) -> Mesh:
    """A mesh whose faces can be sliced. Raises InputError where they make no solid."""
    corners, faces = np.asarray(corners, dtype=float), np.asarray(faces, dtype=np.int64)
    if len(faces) > MOST_FACES:
        raise InputError(f"it has {len(faces)} faces", WHERE, f"thin it out to under {MOST_FACES}")
    if len(faces) == 0 or faces.min() < 0 or faces.max() >= len(corners) or not np.isfinite(corners[faces]).all():
        raise InputError("its faces do not hang together", WHERE, "export it again as a closed solid")
    used, faces = np.unique(faces, return_inverse=True)
    corners, faces = corners[used], faces.reshape(-1, 3)
    size = np.ptp(corners, axis=0)
    if size.max() <= 0 or np.linalg.matrix_rank(corners - corners.mean(axis=0), tol=1e-6 * size.max()) < 3:
        raise InputError(
            "it is flat, so it has no thickness", WHERE, "export the whole solid, or bring it in as an outline"
        )
    sides = np.sort(np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]]), axis=1)
    merged = np.unique(np.round(corners / (1e-6 * size.max())), axis=0, return_inverse=True)[1].ravel()
    _, counts = np.unique(np.sort(merged[sides], axis=1), axis=0, return_counts=True)
    open_ = float((counts == 1).mean())
    if open_ > MOST_OPEN:
        raise InputError(
            f"{100 * open_:.0f} % of its edges hang open, so it is no solid",
            WHERE,
            "close it, or export it again as a solid",
        )
    notes = []
    if open_ > 0:
        notes.append(f"{int((counts == 1).sum())} edges hang open; the hull of each slice is taken")
    if (counts > 2).any():
        notes.append(f"{int((counts > 2).sum())} edges belong to more than two faces; the hull of each slice is taken")
    return Mesh(corners, faces, tuple(notes))


def likely_unit(mesh: Mesh) -> str:
    """The unit that makes the mesh as long as carried objects mostly are: millimetres wherever they do."""
    size = float(mesh.extent.max())
    return next((u for u, mm in UNITS.items() if LIKELY[0] <= size * mm <= LIKELY[1]), "mm")


def scaled(mesh: Mesh, unit: str) -> Mesh:
    """The mesh in mm. Raises InputError for a unit that is not known, or that makes a thing no one carries."""
    if unit not in UNITS:
        raise InputError(f"'{unit}' is not a unit", WHERE, f"give one of {', '.join(UNITS)}")
    size = float(mesh.extent.max()) * UNITS[unit]
    if not 1.0 <= size <= REACH:
        raise InputError(
            f"in {unit} it would be {size:g} mm long", WHERE, f"check its unit; {likely_unit(mesh)} is likely"
        )
    return Mesh(mesh.corners * UNITS[unit], mesh.faces, mesh.notes)


def axes(mesh: Mesh) -> Array:
    """Likely axes as rows (3, 3): across, through the thickness, and along the draw, which is the longest.

    The directions its flat sides face, where it is mostly flat sides square to each other; else principal axes of
    the surface, each face weighed by its area, turned in the cross-section where that makes the box round it
    clearly less.
    """
    a, b, c = (mesh.corners[mesh.faces[:, k]] for k in range(3))
    facing = np.cross(b - a, c - a)
    area = np.linalg.norm(facing, axis=1)
    middle = (a + b + c) / 3
    centre = (middle * area[:, None]).sum(axis=0) / area.sum()
    frame = _flat_sides(facing, area)
    if frame is None:
        # the exact second moment of a triangle: its corners' and three times its middle's, over 12
        arms = np.concatenate([a - centre, b - centre, c - centre, 3 * (middle - centre)])
        _, ways = np.linalg.eigh((arms * np.tile(area, 4)[:, None]).T @ arms)
        across = ways[:, :2] @ _broad((mesh.corners - centre) @ ways[:, :2])
        frame = np.array([across, np.cross(ways[:, 2], across), ways[:, 2]])
    else:
        frame = frame[np.argsort(np.ptp(mesh.corners @ frame.T, axis=0))[[1, 0, 2]]]
    across, _, lengthwise = (axis * np.sign(axis[np.abs(axis).argmax()]) for axis in frame)
    return np.vstack([across, np.cross(lengthwise, across), lengthwise])


def _flat_sides(facing: Array, area: Array) -> Array | None:
    """Three directions square to each other (3, 3) that flat sides face, or None where too little of it is flat."""
    whole = area > 0
    ways, area = facing[whole] / area[whole, None], area[whole]
    ways = ways * np.where(ways[np.arange(len(ways)), np.abs(ways).argmax(axis=1)] < 0, -1.0, 1.0)[:, None]
    _, kind = np.unique(np.round(ways * 50), axis=0, return_inverse=True)
    first = ways[np.bincount(kind.ravel(), area).argmax() == kind.ravel()][0]
    square = np.abs(ways @ first) < SQUARE
    if not square.any():
        return None
    second = ways[square][np.bincount(kind.ravel()[square], area[square]).argmax() == kind.ravel()[square]][0]
    second = second - (second @ first) * first
    second /= np.linalg.norm(second)
    frame = np.array([first, second, np.cross(first, second)])
    flat = (np.abs(ways @ frame.T) > 1 - SQUARE**2).any(axis=1)
    return frame if area[flat].sum() > MOSTLY * area.sum() else None


def _broad(flat: Array) -> Array:
    """The direction (2,) in which points (n, 2) are broadest, turned only where that is clearly better."""
    hull = flat[scipy.spatial.ConvexHull(flat).vertices]
    edges = np.roll(hull, -1, axis=0) - hull
    turns = np.append(0.0, np.arctan2(edges[:, 1], edges[:, 0]) % (np.pi / 2))  # 0: as the principal axes have it
    boxes = [np.ptp(hull @ _turn(t), axis=0) for t in turns]
    areas = np.array([w * h for w, h in boxes])
    best = int(areas.argmin()) if areas.min() < CLEARLY * areas[0] else 0
    first, second = _turn(turns[best]).T
    return np.asarray(first if boxes[best][0] >= boxes[best][1] else second)


def _turn(angle: float) -> Array:
    return np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])


def turned(mesh: Mesh, along: Array, across: Array) -> Mesh:
    """The mesh with the draw along y, `across` as near x as can be, its lower end at y = 0."""
    y = along / np.linalg.norm(along)
    x = across - (across @ y) * y
    if np.linalg.norm(x) < 1e-6:
        raise InputError("the draw and the width are the same direction", WHERE, "choose two different axes")
    x /= np.linalg.norm(x)
    straight = mesh.corners @ np.vstack([x, y, np.cross(x, y)]).T
    low, high = straight.min(axis=0), straight.max(axis=0)
    return Mesh(straight - [(low[0] + high[0]) / 2, low[1], (low[2] + high[2]) / 2], mesh.faces, mesh.notes)


def laid(mesh: Mesh, tip_up: bool | None = None) -> Mesh:
    """The mesh on its likely axes, its narrower end down, unless told which end is the tip."""
    across, _, lengthwise = axes(mesh)
    return _tipped(mesh, lengthwise, across, tip_up)


def along(mesh: Mesh, draw: Array, tip_up: bool | None = None) -> Mesh:
    """The mesh with the draw along a direction (3,) of its own, as wide as it is that way round."""
    draw = np.asarray(draw, dtype=float) / np.linalg.norm(draw)
    aside = np.eye(3)[int(np.abs(draw).argmin())]
    first = np.cross(draw, aside)
    frame = np.array([first, np.cross(draw, first)]) / np.linalg.norm(first)
    return _tipped(mesh, draw, frame.T @ _broad(mesh.corners @ frame.T), tip_up)


def _tipped(mesh: Mesh, along: Array, across: Array, tip_up: bool | None) -> Mesh:
    straight = turned(mesh, along, across)
    if tip_up is None:
        length = float(straight.extent[1])
        ends = [_slice(straight, np.array([share * length]))[0] for share in (0.08, 0.92)]
        tip_up = bool(np.ptp(ends[1], axis=0).prod() < 0.98 * np.ptp(ends[0], axis=0).prod())
    return turned(mesh, -along, across) if tip_up else straight


def _slice(mesh: Mesh, heights: Array) -> list[Array]:
    """The hull of the mesh at each height, as points (k, 2) in x and z."""
    from trimesh import Trimesh  # slow to load, so only when a mesh is sliced
    from trimesh.intersections import mesh_multiplane

    solid = Trimesh(mesh.corners, mesh.faces, process=False)
    lines, frames, _ = mesh_multiplane(solid, np.zeros(3), np.array([0.0, 1.0, 0.0]), heights)
    hulls = []
    for cut, frame, y in zip(lines, frames, heights, strict=True):
        points = np.asarray(cut, dtype=float).reshape(-1, 2)
        if len(points) < 3:
            raise InputError(
                f"nothing of it is found {y:.1f} mm up", WHERE, "close the mesh, or export it again as one solid"
            )
        there = (np.column_stack([points, np.zeros(len(points)), np.ones(len(points))]) @ np.asarray(frame).T)[
            :, [0, 2]
        ]
        try:
            hulls.append(there[scipy.spatial.ConvexHull(there).vertices])
        except scipy.spatial.QhullError:
            raise InputError(f"it is flat {y:.1f} mm up", WHERE, "export it again as one solid") from None
    return hulls


def _closely(mesh: Mesh, y: Array) -> tuple[Array, list[Array], Array]:
    """Slices at heights y, and closer where the shape jumps: heights, hulls, and their boxes (n, 4)."""

    def boxed(hulls: list[Array]) -> Array:
        return np.array([(*h.min(axis=0), *h.max(axis=0)) for h in hulls])

    hulls = _slice(mesh, y)
    for _ in range(CLOSER):
        jumps = np.abs(np.diff(boxed(hulls), axis=0)).max(axis=1) > JUMP
        between = ((y[1:] + y[:-1]) / 2)[jumps]
        if not len(between):
            break
        hulls += _slice(mesh, between)
        order = np.argsort(np.concatenate([y, between]))
        y, hulls = np.concatenate([y, between])[order], [hulls[k] for k in order]
    return y, hulls, boxed(hulls)


def stations(mesh: Mesh) -> tuple[Table, float]:
    """The station table of a mesh that is laid, and by how much its sections miss the mesh's hulls, mm.

    Raises InputError where it cannot be sliced, or bows so much that one flat middle plane does not hold it.
    """
    length = float(mesh.extent[1])
    shy = length * 1e-5
    y = np.clip((1 - np.cos(np.linspace(0, np.pi, SLICES))) / 2 * length, shy, length - shy)
    y, hulls, boxes = _closely(mesh, y)
    middle = float(np.average((boxes[:, 1] + boxes[:, 3]) / 2, weights=boxes[:, 3] - boxes[:, 1]))
    front, back = boxes[:, 3] - middle, middle - boxes[:, 1]
    if min(front.min(), back.min()) < -0.05:
        k = int(np.minimum(front, back).argmin())
        raise InputError(
            f"it bows: {y[k]:.0f} mm up it lies wholly to one side of its middle plane", WHERE,
            "turn it so that it lies flatter, or measure it at stations",
        )  # fmt: skip
    front, back = np.maximum(front, 0.0), np.maximum(back, 0.0)
    y[0], y[-1] = 0.0, length
    girth = np.array([np.hypot(*(np.roll(h, -1, axis=0) - h).T).sum() for h in hulls])
    width, thick = boxes[:, 2] - boxes[:, 0], front + back
    corner = np.clip((2 * (width + thick) - girth) / (8 - 2 * np.pi), 0, np.minimum(width, thick) / 2)
    sizes = np.column_stack([boxes[:, 0], width, front, back, corner])
    missed = {s: _misses(s, y, sizes, hulls, middle) for s in Shape}
    best = np.array([missed[s] + FIRST[s] for s in Shape]).argmin(axis=0)
    usual = list(Shape)[int(np.bincount(best, minlength=len(Shape)).argmax())]
    shapes = [
        usual if missed[usual][k] < missed[list(Shape)[b]][k] + 0.05 else list(Shape)[b] for k, b in enumerate(best)
    ]
    kept = adaptive(y, sizes, TRUE_TO)
    made = [_station(y[k], sizes[k], shapes[k]) for k in kept]
    error = _most(np.array([missed[s][k] for k, s in enumerate(shapes)]), np.gradient(y)) + TRUE_TO
    return Table(neat(made), capture=Capture(Way.MESH, max(round(error, 3), 0.05))), error


def _most(misses: Array, weights: Array) -> float:
    """What 19 of 20 misses keep within, each weighed by the length it stands for."""
    order = np.argsort(misses)
    share = np.cumsum(weights[order]) / weights.sum()
    return float(misses[order][np.searchsorted(share, 0.95)])


def _station(y: float, size: Array, shape: Shape) -> Station:
    x, width, front, back, corner = map(float, size)
    corner = float(np.floor(corner * 1e4) / 1e4) if shape is Shape.SLAB else 0.0
    return Station(float(y), x, x + max(width, 0.01), max(front, 0.005), max(back, 0.005), shape, corner)


def _misses(shape: Shape, y: Array, sizes: Array, hulls: list[Array], middle: float) -> Array:
    """How far a shape of these sizes lies from each hull at most, (n,), mm.

    Between convex sets the Hausdorff distance is the greatest difference of their support functions.
    """
    there = Loft(tuple(_station(h, s, shape) for h, s in zip(y, sizes, strict=True))).sections(y)
    x = np.hstack([there.x, there.x])
    z = np.hstack([there.front, -there.back])
    mine = np.array([(x * c + z * s).max(axis=1) for c, s in WAYS]).T
    theirs = np.array([((h - [0, middle]) @ WAYS.T).max(axis=0) for h in hulls])
    return np.asarray(np.abs(mine - theirs).max(axis=1))
