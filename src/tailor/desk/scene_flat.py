"""Scene of pieces laid flat. Those of a case keep the draw direction level, as it has it made up, so that one bar and
one mouth line run across either.
"""

from __future__ import annotations

from collections.abc import Sequence
from functools import singledispatch

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.flat_goods.built import Built
from tailor.core.draft.piece import FLIP, Piece
from tailor.core.measure import Along
from tailor.core.packing import filling, stacked
from tailor.desk import theme
from tailor.desk.scene import Scene, down, sides_of, tie
from tailor.files.linework import strokes
from tailor.files.sheet import shortened

SHORTER = 0.7  # of the first piece's height, that a long strap is shown
LEAST_STRAP = 150.0  # mm of a long strap that is shown
ASPECT = 1.5  # of the board's width to its height
BETWEEN = 14.0  # mm between pieces


def flat(made: Draft, aspect: float = ASPECT) -> Scene:
    """The pieces laid to fill a board of an aspect: those of a case with their levels kept, other parts beside them."""
    scene = Scene()
    longest = max(LEAST_STRAP, SHORTER * float(np.ptp(made.pieces[0].cut[:, 1])))
    drawn = [shortened(p, longest) for p in made.pieces]
    placed = [p.moved(by) for p, by in zip(drawn, _laid(drawn, made.plan is not None, aspect), strict=True)]
    for whole, piece in zip(drawn, placed, strict=True):
        low = piece.cut.min(axis=0) - whole.cut.min(axis=0)
        scene.shifts[piece.name], scene.lifts[piece.name] = float(low[0]), float(low[1])
        scene.fills.append(
            (piece.cut, theme.LEATHER if piece.leather == "body" else theme.STUFF.get(piece.leather, theme.WELTED), 120)
        )
        scene.lines += [(s.kind, s.points, s.closed) for s in strokes(piece)]
        scene.holes += [(h.x, h.y, h.diameter) for h in piece.holes]
    scene.pieces = placed
    _places_flat(made, scene, placed)
    _places_added(scene, made, placed)
    return scene


def _laid(pieces: Sequence[Piece], levelled: bool, aspect: float) -> list[Array]:
    """How far pieces are moved, (2,) each, to lie side by side and be seen large."""
    lows = np.array([p.cut.min(axis=0) for p in pieces])
    sizes = np.array([np.ptp(p.cut, axis=0) for p in pieces]) + BETWEEN
    level = np.array([levelled and any(h.seam == "main" for h in p.holes) for p in pieces])
    if not level.any():
        return list(filling(sizes, aspect) - lows)
    moves, x = np.zeros_like(lows), 0.0
    for k in np.nonzero(level)[0]:
        moves[k, 0], x = x - lows[k, 0], x + sizes[k, 0]
    foot, top = float(lows[level, 1].min()), float((lows[level, 1] + sizes[level, 1]).max())
    others = np.nonzero(~level)[0]
    if len(others):
        high = max(top - foot, float(sizes[others, 1].max()))
        places, _ = stacked(sizes[others][:, ::-1], high)  # in columns
        moves[others] = places[:, ::-1] + [x, foot] - lows[others]
    return list(moves)


@singledispatch
def _places_flat(made: Draft, scene: Scene, placed: Sequence[Piece]) -> None:
    """Where measures are tied on the pieces laid flat."""


@_places_flat.register
def _(made: Built, scene: Scene, placed: Sequence[Piece]) -> None:
    """Where the construction says."""
    turn = -1.0 if made.mirrored else 1.0
    for key, (name, x, y) in made.tied.items():
        scene.places[key] = (turn * x + scene.shifts[name], y + scene.lifts[name])


def _places_added(scene: Scene, made: Draft, placed: Sequence[Piece]) -> None:
    """Where the measures of what is sewn on are tied: its size to its own piece."""
    by_name = {piece.name: piece for piece in placed}
    for slot, name in made.added.items():
        if name in by_name:
            (left, low), (right, high) = by_name[name].cut.min(axis=0), by_name[name].cut.max(axis=0)
            scene.places[f"{slot}.width"] = (float(left + 0.3 * (right - left)), float(high))
            scene.places[f"{slot}.height"] = (float(right), float(low + 0.7 * (high - low)))
            scene.places[f"{slot}.on"] = (float(left), float(low + 0.5 * (high - low)))


@_places_flat.register
def _(made: Fitted, scene: Scene, placed: Sequence[Piece]) -> None:
    """On the sheet the front is sewn by, else on its template; the welt's on the welt."""
    names = [p.name for p in made.pieces]
    sewn = next(p.name for p in made.pieces if any(h.edge == "front" for h in p.holes))
    turn = FLIP if made.mirrored else np.ones(2)

    def on(points: Array, piece: str = sewn) -> Array:
        return np.asarray(points * turn + [scene.shifts[piece], scene.lifts[piece]])

    holes, mouth = made.front.holes.points, made.value("mouth.y")
    side = int(holes[:, 1].argmin()) + 1 if made.plan.fold is None else len(holes)  # holes down the seam side
    seam_side = holes[:side]
    inner, edge = made.inner.points, made.front.cut
    middle, foot = float(seam_side[0, 0]) / 2, float(holes[:, 1].min())
    upper = np.array(
        [(float(seam_side[0, 0]) if made.plan.fold is None else 0.0, mouth), (float(seam_side[0, 0]), mouth)]
    )
    lines = {
        Along.SEAM: on(seam_side), Along.INNER: on(down(inner, mouth)), Along.EDGE: on(down(edge, mouth)),
        Along.WELT: on(seam_side, "welt"),
        Along.MIDDLE: on(np.array([(middle, mouth), (middle, foot)])), Along.MOUTH: on(upper),
    }  # fmt: skip
    if made.plan.fold is not None:
        lines[Along.FOLD] = on(np.array([(0.0, mouth), (0.0, foot)]))
    if "front blank" in names:
        cut = placed[names.index("front blank")].cut
        at = int(np.abs(cut[:, 1] - cut[:, 1].mean()).argmin())
        lines[Along.BLANK] = cut[[at, at]]
    tab = made.tab
    if tab is not None:
        piece = "back" if made.plan.fold is None else sewn
        ends = sorted((tab.begins, tab.end))
        lines |= {k: on(v, piece) for k, v in sides_of(np.array([tab.left, ends[0]]), np.array([tab.right, ends[1]]))
                  .items()}  # fmt: skip
    tie(scene, lines)
    for name, spot in (
        ("mouth.relief", (float(inner[0, 0]) / 2, mouth - made.value("mouth.relief"))),
        ("seam.toe", (0.0, float(inner[:, 1].min()))),
    ):
        x, y = on(np.array(spot)).tolist()
        scene.places[name] = (x, y)
