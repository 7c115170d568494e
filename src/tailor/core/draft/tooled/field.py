"""Fields: where a piece may be tooled: back from its edges, clear of holes, folds, hardware and what lands on it.

Source: craft, "Tooling, lettering, marks".
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Sequence
from dataclasses import replace
from types import MappingProxyType

import numpy as np
import scipy
import shapely
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.fitted.faces import faces
from tailor.core.draft.piece import Piece, Role
from tailor.core.draft.tooled.asked import LARGEST, Asked
from tailor.core.draft.tooled.came import FINE, Field
from tailor.core.measure import Theme
from tailor.core.placed.lies import Lie
from tailor.core.placed.ribbon import Ribbon
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

EDGE = habit.eye("field.plain", 8.0, 3, 20, "from the field to an edge that nothing is sewn to")
COARSE = 4  # segments to a quarter turn, for a glance
LEAST = 10.0  # mm: what is narrower is no field
NEAR = 0.5  # mm that holes may be off where a piece lies on another as it is
SPREAD, TOUCHES = 2.0, 1.0  # mm between places that are looked at, and that leather which touches may be off
REACH, STEP, BENDS = 24.0, 0.25, 1 / 30.0  # mm beside a fold that are looked at, and how they bend there
FACE = "face"  # the side of what lies nobody knows how
UPRIGHT = 0.3  # of its length: a way that rises less than that in space is not up
SIDES = MappingProxyType({  # by which way the grain looks
    "front": (0, 0, 1), "back": (0, 0, -1), "right": (1, 0, 0), "left": (-1, 0, 0), "top": (0, 1, 0),
    "under": (0, -1, 0),
})  # fmt: skip


def _any(job: object, made: object) -> bool:
    return bool(getattr(made, "tooled", ()))


MEASURES = (
    measure.length("tool.setback", Theme.TOOLING, "set back",
        "from the cut edge to what is tooled; worked out as twice the stitch margin", 0, 60, first=True, applies=_any),
    measure.length("tool.clear", Theme.TOOLING, "clear of holes",
        "from holes, folds, hardware and what is sewn on to what is tooled", 0, 30, usual=3.0, first=True,
        applies=_any),
    measure.length("tool.round", Theme.TOOLING, "corner's round",
        "radius of the round that a field's corners are drawn with", 0.2, 40, usual=4.0, first=True, applies=_any),
)  # fmt: skip


def setback(settings: Settings, made: Draft) -> Reason:
    """How far from the cut edge a field lies."""
    margin = made.reasons["seam.margin"].value if "seam.margin" in made.reasons else settings.habit(EDGE) / 2
    because = "twice the stitch margin, so that a row of stitches stands midway" if "seam.margin" in made.reasons else (
        "no seam runs there, and an edge wants so much plain leather")  # fmt: skip
    return settings.settled(stated("tool.setback", 2 * margin, "mm", because))


def finished(piece: Piece) -> Polygon:
    """What is left of a piece once it is trimmed, mm."""
    rules = {rule.kind: rule.points for rule in piece.rules}
    if piece.role is Role.BLANK and "trim" in rules and "mouth" in rules:
        trim, mouth = rules["trim"], rules["mouth"]
        far = np.hypot(*(mouth[[0, -1]] - trim[-1]).T)
        return Polygon(np.vstack([trim, mouth if far[0] < far[1] else mouth[::-1]])).buffer(0)
    return Polygon(piece.cut if piece.trim is None else piece.trim)


def fields(settings: Settings, made: Draft, piece: Piece) -> tuple[Field, ...]:
    """The fields of a piece of a draft as it is for the right hand with every hole, the largest first."""
    back, clear, round_ = setback(settings, made).value, settings.number("tool.clear"), settings.number("tool.round")
    asked = _told(made, piece), back, clear, round_
    if asked not in _KNOWN:
        while len(_KNOWN) >= MOST_KNOWN:
            del _KNOWN[next(iter(_KNOWN))]
        _KNOWN[asked] = _found(made, piece, back, clear, round_)
    return _KNOWN[asked]


# Fields by all that they depend on: they are found once, however often they are asked for, and keep no draft alive.
_KNOWN: dict[tuple[bytes, float, float, float], tuple[Field, ...]] = {}
MOST_KNOWN = 32


def _told(made: Draft, piece: Piece) -> bytes:
    """All of a draft that the fields of a piece depend on, in few bytes."""
    found = hashlib.sha256(f"{type(made).__name__} {piece.name} {sorted(made.lies)} {made.rough}".encode())
    for each in made.pieces:
        found.update(f"{each.name} {each.thickness} {each.role} {each.holes} {each.fittings}".encode())
        lines = (each.cut, each.trim, *each.folds, *each.stitch, *each.openings, *(rule.points for rule in each.rules))
        for line in lines:
            found.update(b"-" if line is None else np.ascontiguousarray(line).tobytes())
    outlines = [(part.outline, part.behind) for part in made.lying]
    outlines += [] if made.carriage is None else [(made.carriage.outline, True)]
    for outline, behind in outlines:
        found.update(np.ascontiguousarray(outline).tobytes() + bytes([behind]))
    return found.digest()


def _found(made: Draft, piece: Piece, back: float, clear: float, round_: float) -> tuple[Field, ...]:
    whole, fine = finished(piece), COARSE if made.rough else FINE
    edges = [whole.exterior, *(shapely.LinearRing(ring) for ring in piece.openings)]
    kept = [edge.buffer(back, quad_segs=fine) for edge in edges]
    kept += [what.buffer(clear + half, quad_segs=fine) for what, half in _kept(piece)]
    kept += [what.buffer(clear, quad_segs=fine) for what in _landings(made, piece)]
    kept += [fold.buffer(half + clear, quad_segs=fine) for fold, half in _folds(made, piece)]
    free = whole.difference(shapely.union_all(kept))
    opened = free.buffer(-round_, quad_segs=fine).buffer(round_ * (1 - 1e-4), quad_segs=fine)
    parts = [p for p in shapely.get_parts(opened) if isinstance(p, Polygon) and not p.buffer(-LEAST / 2).is_empty]
    lie, named = made.lies.get(piece.name), list[Field]()
    for part in sorted(parts, key=lambda p: -p.area):
        found = Field(piece.name, "", part)
        side = FACE if lie is None else _side(lie, found.middle)
        alike = sum(other.side.split()[0] == side for other in named)
        up = (0.0, 1.0) if lie is None else _up(lie, found.middle)
        plain = f"{FACE} {len(named) + 1}" if named else FACE
        named.append(Field(piece.name, f"{side} {alike + 1}" if alike else side, part, up, plain))
    return tuple(named)


def first_place(made: Draft) -> dict[str, str]:
    """Where something is put when nobody says where: on the first piece that is seen, in its largest field."""
    piece = next((piece.name for piece in made.pieces if is_tooled(piece)), "body")
    return {"piece": piece, "side": LARGEST}


def placed_again(every: Sequence[Asked], made: Draft) -> tuple[Asked, ...]:
    """What is asked for, on another draft: what is on a piece that is not there goes where there is one."""
    names = {piece.name for piece in made.pieces if is_tooled(piece)}
    there = first_place(made)
    return tuple(a if a.piece in names else replace(a, piece=there["piece"], side=there["side"]) for a in every)


def fields_for(settings: Settings, made: Draft, asked: Asked) -> tuple[Field, ...]:
    """The fields of the piece that something is asked for on, the largest first; none where there is no such piece."""
    piece = next((p for p in made.pieces if p.name == asked.piece and is_tooled(p)), None)
    return () if piece is None else fields(settings, made, piece)


def is_tooled(piece: Piece) -> bool:
    """Whether a piece is one that anything could be put on: leather that is seen."""
    return piece.leather == "body" and piece.role not in (Role.TEMPLATE, Role.WELT)


def _kept(piece: Piece) -> Iterator[tuple[BaseGeometry, float]]:
    """What a tool keeps clear of, and half its width, mm: holes, fastenings, rows, slits, and thinned leather."""
    spots = [(h.x, h.y, h.diameter) for h in piece.holes]
    spots += [(f.x, f.y, max(f.cap, f.hole)) for f in piece.fittings]
    for wide in {wide for *_, wide in spots}:
        yield shapely.MultiPoint([(x, y) for x, y, w in spots if w == wide]), wide / 2
    lines = [*piece.stitch, *(r.points for r in piece.rules if r.kind in ("slit", "skive"))]
    yield shapely.MultiLineString([line for line in lines if len(line) > 1]), 0.0


def _folds(made: Draft, piece: Piece) -> Iterator[tuple[BaseGeometry, float]]:
    """Each fold, and how far to either side of it the leather bends, mm."""
    lie = made.lies.get(piece.name)
    for fold in piece.folds:
        half = piece.thickness
        if made.shell is not None and piece.role is Role.BODY:
            half = made.leather.quarter_bend
        elif lie is not None:
            half = max(half, _bent(lie, fold))
        yield shapely.LineString(fold), half


def _bent(lie: Lie, fold: Array) -> float:
    """How far to either side of a fold a sheet bends, mm."""
    along = (fold[1] - fold[0]) / np.hypot(*(fold[1] - fold[0]))
    out = np.arange(-REACH, REACH + STEP, STEP)
    looks = lie(fold.mean(axis=0) + out[:, None] * np.array([-along[1], along[0]])).out
    turns = np.linalg.norm(np.diff(looks, axis=0), axis=1) / STEP > BENDS
    middles = (out[1:] + out[:-1]) / 2
    if not turns[np.abs(middles) < 2 * STEP].any():
        return 0.0
    sides = [
        np.abs(middles[~turns & (way * middles > STEP)]) for way in (-1, 1)
    ]  # past its own line, where it is level
    return float(max(side.min(initial=REACH) for side in sides))


def _landings(made: Draft, piece: Piece) -> Iterator[BaseGeometry]:
    """Where something lies on the grain of a piece once it is sewn or set on, on the flat piece."""
    for side, on in faces(made).items():
        if on.piece == piece.name:
            yield from (_sound(on.flat(_dense(seen))) for seen in _lying(made, side))
    for other in made.pieces:
        if other.name == piece.name:
            continue
        here, there = _shared(piece, other)
        if (other.name, piece.name) in made.drawn or isinstance(made.lies.get(other.name), Ribbon):
            yield _touched(made, piece, other)
        if not len(here) or not _above(made, piece, other, (here, there)):
            continue
        turn, move, off = _rigid(there, here)
        if len(here) > 1 and off < NEAR and not isinstance(made.lies[other.name], Ribbon):
            yield _sound(other.cut @ turn.T + move)
            continue
        yield _touched(made, piece, other)
        if _arched(piece, here):
            yield _sound(shapely.MultiPoint(here).convex_hull.buffer(NEAR))


def _lying(made: Draft, side: str) -> Iterator[Array]:
    """Outlines of what lies on the front or the back of a fitted case, as seen from the front."""
    yield from (part.outline for part in made.lying if part.behind == (side == "back"))
    if side == "back" and made.carriage is not None:
        low = made.carriage.outline[:, 1] < made.top
        if low.any():
            yield made.carriage.outline


def _shared(piece: Piece, other: Piece) -> tuple[Array, Array]:
    """The holes and fastenings that two pieces share, on the one and on the other, (n, 2) each."""
    mine, theirs = (
        {(h.seam, str(h.place)): (h.x, h.y) for h in each.holes}
        | {("set", f.place): (f.x, f.y) for f in each.fittings if f.place}
        for each in (piece, other)
    )
    both = [key for key in mine if key in theirs]
    here, there = ([where[key] for key in both] for where in (mine, theirs))
    return np.array(here).reshape(-1, 2), np.array(there).reshape(-1, 2)


def _above(made: Draft, piece: Piece, other: Piece, places: tuple[Array, Array]) -> bool:
    """Whether another piece lies on the grain of a piece where they are joined."""
    one, two = made.lies.get(piece.name), made.lies.get(other.name)
    if one is None or two is None:
        return False
    here, there = one(places[0]), two(places[1])
    return float(np.median(((there.at - here.at) * here.out).sum(axis=1))) > 0


def _rigid(there: Array, here: Array) -> tuple[Array, Array, float]:
    """The turn (2, 2), turned over or not, and the move that bring places on to others; how far they are off, mm."""
    a, b = there - there.mean(axis=0), here - here.mean(axis=0)
    u, _, vt = np.linalg.svd(b.T @ a)
    turn = u @ vt
    move = here.mean(axis=0) - turn @ there.mean(axis=0)
    return turn, move, float(np.hypot(*(there @ turn.T + move - here).T).max())


def _touched(made: Draft, piece: Piece, other: Piece) -> BaseGeometry:
    """What another piece, bent or folded as it is, touches of a piece once it is put together, on the flat piece."""
    mine, theirs = _spread(piece), _spread(other)
    on, by = made.lies[piece.name](mine), made.lies[other.name](theirs)
    near = (piece.thickness + other.thickness) / 2 + TOUCHES
    nearest = np.asarray(scipy.spatial.cKDTree(by.at).query(on.at, distance_upper_bound=near)[1])
    found = nearest < len(by.at)
    found[found] = ((by.at[nearest[found]] - on.at[found]) * on.out[found]).sum(axis=1) > 0
    return shapely.MultiPoint(mine[found]).buffer(SPREAD)


def _spread(piece: Piece) -> Array:
    """Places all over a piece, (n, 2)."""
    low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
    grid = np.stack(np.meshgrid(*(np.arange(low[k], high[k], SPREAD) for k in (0, 1))), axis=2).reshape(-1, 2)
    return np.vstack([grid[shapely.contains_xy(Polygon(piece.cut), *grid.T)], _dense(piece.cut)])


def _arched(piece: Piece, places: Array) -> bool:
    """Whether what is held at places arches over them, and does not run round the whole piece."""
    return bool(shapely.MultiPoint(places).convex_hull.area < 0.5 * Polygon(piece.cut).area)


def _dense(ring: Array) -> Array:
    """An outline with a point every few mm."""
    return shapely.get_coordinates(shapely.segmentize(shapely.LinearRing(ring), 3.0))[:-1]


def _sound(ring: Array | BaseGeometry) -> Polygon:
    found = (ring if isinstance(ring, BaseGeometry) else Polygon(ring)).buffer(0)
    return max(shapely.get_parts(found), key=lambda part: part.area, default=Polygon())


def _side(lie: Lie, at: Array) -> str:
    out = lie(at[None, :]).out[0]
    return max(SIDES, key=lambda side: float(out @ np.array(SIDES[side])))


def _up(lie: Lie, at: Array) -> tuple[float, float]:
    """Which way on the flat piece is up in space; up the piece where it lies level."""
    step = 0.5 * np.array([[1.0, 0.0], [-1.0, 0.0], [0.0, 1.0], [0.0, -1.0]])
    y = lie(at + step).at[:, 1]
    way = np.array([y[0] - y[1], y[2] - y[3]])
    size = float(np.hypot(*way))
    return (0.0, 1.0) if size < UPRIGHT else (float(way[0] / size), float(way[1] / size))
