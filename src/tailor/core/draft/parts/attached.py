"""Attached: a pocket or a reinforcement sewn on any piece of a draft while it still lies flat.

A puckered pocket is wider at its top than at its base and is sewn on with its sides parallel, so it stands open. A
bellows pocket has a pleat down either side, which lets it swell. Source: craft, "Puckered pocket".
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TypeVar

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft import paths
from tailor.core.draft.draft import Draft
from tailor.core.draft.holes import Edge, HoleLine, joined
from tailor.core.draft.piece import Mark, Piece, Rule, punched, title
from tailor.core.draft.sewn import even_stack, sewn, stitching_of
from tailor.core.draft.stuff import leather_of
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.stack import Layer, Stack
from tailor.core.reason import stated
from tailor.core.settings import Settings

NONE = "none"
PLAIN, PUCKERED, BELLOWS, REINFORCEMENT = "pocket", "puckered pocket", "bellows pocket", "reinforcement"
KINDS = (PLAIN, PUCKERED, BELLOWS, REINFORCEMENT)
BESIDE = 3.0  # mm of leather from an attached piece to whatever is near
CORNER = 6.0  # mm
CELLS = 40  # to the longer side of a piece, where room is looked for
WIDE, HIGH = 0.8, 0.7  # of the room on the piece

Made = TypeVar("Made", bound=Draft)


@dataclass(frozen=True)
class Shape:
    """An attached piece flat: its outline, folds, and the line it is sewn along with the lengths of its corners."""

    outline: Array
    folds: tuple[Array, ...]
    line: Edge


def attached(settings: Settings, draft: Made) -> Made:
    """The draft with what is sewn on one of its pieces. Raises InputError where there is no such piece, or no room."""
    name = settings.word("patch.on")
    if name == NONE:
        return draft
    able = [p for p in draft.pieces if p.leather == "body" and not p.name.startswith("strip")]
    on = next((p for p in able if p.name == name), None)
    if on is None:
        raise InputError(
            f"there is no piece called '{name}' to sew it on", "patch.on", f"give {' or '.join(p.name for p in able)}"
        )
    leather = leather_of(settings)
    how, thick = stitching_of(settings, leather, ends=2), leather.thickness
    kind = settings.word("patch.kind")
    margin = Stack((Layer("all", 2 * thick),)).margin()
    left, low, right, high = _room(on)
    wide = settings.settled(
        stated("patch.width", WIDE * (right - left), "mm", "most of the room there is", room=right - left)
    )
    tall = settings.settled(
        stated("patch.height", HIGH * (high - low), "mm", "most of the room there is", room=high - low)
    )
    x = (left + right) / 2 + settings.number("patch.across")
    y = (low + high) / 2 - tall.value / 2 + settings.number("patch.up")
    seat = Edge(*_seam(x, y, wide.value, tall.value, kind, 0.0, margin))
    more = {PUCKERED: settings.number("patch.fullness") * wide.value, BELLOWS: 4 * settings.number("patch.pleat")}
    shape = _shape(wide.value, tall.value, kind, more.get(kind, 0.0), margin)
    _fits(on, x, y, wide.value, tall.value, margin)
    lines = joined([shape.line, seat], how.pitch.value, how.odd)
    seam, label = kind, f"under the {kind}"
    new = _piece(kind, shape, lines[0], how.hole.value, thick)
    pieces = [_on(p, seam, label, lines[1], how.hole.value) if p is on else p for p in draft.pieces]
    profile = even_stack(Stack((Layer(kind, thick), Layer(name, on.thickness))), lines[0])
    sewn_on = sewn(seam, (kind, name), (kind, label), lines[0], profile, how, margin, how.wrapped)
    why = {r.name: r for r in (wide, tall)}
    first = f"{kind}: {'upper edge' if kind != REINFORCEMENT else 'all round'}, before it is sewn on"
    return replace(
        draft, pieces=(*pieces, new), seams=(*draft.seams, sewn_on), reasons={**draft.reasons, **why},
        edges_first=(*draft.edges_first, first),
    )  # fmt: skip


def _room(on: Piece) -> tuple[float, float, float, float]:
    """Left, low, right and high of the largest rectangle on a piece clear of its edges, folds and stitches."""
    low, high = on.cut.min(axis=0), on.cut.max(axis=0)
    step = max(float((high - low).max()) / CELLS, 1.0)
    x, y = (np.arange(a + step / 2, b, step) for a, b in zip(low, high, strict=True))
    plain = shapely.Polygon(on.cut, list(on.openings)).simplify(step / 8)
    leather = plain.buffer(-BESIDE - step, quad_segs=2)
    holes = shapely.multipoints(np.array([(h.x, h.y) for h in on.holes]).reshape(-1, 2))
    taken = shapely.buffer(holes, BESIDE + step, quad_segs=2)
    creased = shapely.union_all([shapely.LineString(fold).buffer(BESIDE + step) for fold in on.folds])
    free = shapely.difference(shapely.difference(leather, taken), creased)
    shapely.prepare(free)
    gx, gy = np.meshgrid(x, y)
    open_ = shapely.contains_xy(free, gx.ravel(), gy.ravel()).reshape(gx.shape)
    best, found = 0, (0, 0, 0, 0)
    tall = np.zeros(len(x), dtype=int)
    for row, line in enumerate(open_):  # the tallest run of free cells up to each row, and how wide it goes on
        tall = np.where(line, tall + 1, 0)
        if line.sum() * (row + 1) <= best:
            continue
        for deep in set(tall[tall > 0].tolist()):
            if deep * int(line.sum()) <= best:
                continue
            runs = np.flatnonzero(np.diff(np.concatenate([[0], (tall >= deep).astype(int), [0]])))
            for a, b in zip(runs[::2], runs[1::2], strict=True):
                if deep * (b - a) > best:
                    best, found = deep * (b - a), (int(a), row - deep + 1, int(b), row + 1)
    a, c, b, d = found
    return float(low[0] + a * step), float(low[1] + c * step), float(low[0] + b * step), float(low[1] + d * step)


def _seam(
    x: float, y: float, wide: float, tall: float, kind: str, more: float, margin: float
) -> tuple[Line, tuple[float, ...]]:  # fmt: skip
    """The line a piece is sewn along, about x, from y up, and its anchors: three sides of a pocket, or all four."""
    half, top = wide / 2 - margin, more / 2
    low, high = y + margin, y + tall
    if kind == REINFORCEMENT:
        high -= margin
        ring = [(x, high), (x - half, high), (x - half, low), (x + half, low), (x + half, high), (x + 0.5, high)]
    else:
        ring = [(x - half - top, high), (x - half, low), (x + half, low), (x + half + top, high)]
    line, corners = paths.bent(ring, min(CORNER, 0.4 * half, 0.4 * (high - low)))
    first = 0.4 * margin
    return line, (first, *corners, line.length - first)


def _shape(wide: float, tall: float, kind: str, more: float, margin: float) -> Shape:
    """The piece flat, about x = 0 from y = 0 up. more: by how much its top, or all of it, is wider."""
    half, corner = wide / 2, min(CORNER, 0.3 * wide, 0.3 * tall)
    if kind == PUCKERED:
        outline = paths.closed(
            [(-half, 0.0), (half, 0.0), (half + more / 2, tall), (-half - more / 2, tall)], (corner, corner, 1.0, 1.0)
        )
        return Shape(outline, (), Edge(*_seam(0.0, 0.0, wide, tall, kind, more, margin)))
    if kind == BELLOWS:
        # Either side goes out, back under itself and out again to where it is sewn: twice a pleat's depth more.
        out = half + more / 2
        folds = tuple(np.array([(s * v, 0.0), (s * v, tall)]) for s in (-1, 1) for v in (half, half + more / 4))
        line = Edge(*_seam(0.0, 0.0, wide + more, tall, PLAIN, 0.0, margin))
        outline = paths.closed(paths.box(-out, 0.0, out, tall), (corner, corner, 1.0, 1.0))
        return Shape(outline, folds, line)
    radii = (corner,) * 4 if kind == REINFORCEMENT else (corner, corner, 1.0, 1.0)
    outline = paths.closed(paths.box(-half, 0.0, half, tall), radii)
    return Shape(outline, (), Edge(*_seam(0.0, 0.0, wide, tall, kind, 0.0, margin)))


def _fits(on: Piece, x: float, y: float, wide: float, tall: float, margin: float) -> None:
    leather = shapely.Polygon(on.cut, list(on.openings))
    spot = shapely.box(x - wide / 2, y, x + wide / 2, y + tall)
    seams = shapely.points(np.array([(h.x, h.y) for h in on.holes]).reshape(-1, 2))
    clash = bool(len(on.holes) and (shapely.distance(seams, spot.buffer(-margin).exterior) < BESIDE / 2).any())
    if not leather.contains(spot) or clash:
        raise InputError(
            f"{wide:.0f} by {tall:.0f} mm do not lie clear on the {on.name} there", "patch.width",
            "make it smaller, move it (patch.across, patch.up), or take another piece",
        )  # fmt: skip


def _piece(kind: str, shape: Shape, line: HoleLine, hole: float, thick: float) -> Piece:
    middle = float(shape.outline[:, 1].mean())
    words = (
        Mark("title", 0.0, middle, title(kind, 1, thick)), Mark("face", 0.0, middle - 8.0, "grain side up"),
        Mark("top", 0.0, middle + 8.0, "top", (0.0, middle + 18.0)),
    )  # fmt: skip
    high = float(shape.outline[:, 1].max())
    brim = shape.outline[shape.outline[:, 1] > high - 1e-6]
    edge = np.vstack([shape.outline, shape.outline[:1]]) if kind == REINFORCEMENT else brim
    return Piece(
        kind, 1, "body", thick, "grain", shape.outline, folds=shape.folds, stitch=(line.points,),
        holes=punched(kind, kind, line.points, hole), rules=(Rule("finish", edge),), marks=words,
    )  # fmt: skip


def _on(piece: Piece, seam: str, label: str, line: HoleLine, hole: float) -> Piece:
    return replace(
        piece, holes=(*piece.holes, *punched(seam, label, line.points, hole)), stitch=(*piece.stitch, line.points)
    )
