"""The body of a folded sheath: front, fold and back in one piece, with the belt loop's tab."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.fitted.mouth import front_edge, rounded
from tailor.core.draft.piece import FLIP, Mark, Piece, Role, Rule, punched, title
from tailor.core.draft.stitch.holes import HoleLine, straight_row
from tailor.core.draft.stitch.offset import offset
from tailor.core.draft.worn.carry import Loop, row_places
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather

CORNER = 3.0  # mm: the mouth's outer corners, nipped so that they finish round
FILLET = 5.0  # mm: where the tab leaves the mouth, so that it does not tear
TAB_CORNER = 8.0  # mm
GLUE_BACK = habit.bench(
    "glue.back", 0.15, 0, 0.5, "of the way from the welt to the stitch, where glue stops", habit.SHARE
)


@dataclass(frozen=True)
class Side:
    """One half of the body: its stitch line, its holes and its cut line from the mouth to the fold, (n, 2)."""

    line: Line
    holes: HoleLine
    cut: Array


def side(line: Line, holes: HoleLine, margin: float, mouth: float) -> Side:
    """A half of the body with its cut line one margin outside the stitch line, level at the mouth. mm."""
    cut = level_off(offset(line, margin, beyond=3 * margin), mouth)
    cut[-1, 0] = 0.0
    return Side(line, holes, cut)


def level_off(points: Array, mouth: float) -> Array:
    """A line running down from above the mouth, begun at the mouth exactly, (n, 2)."""
    below = int(np.argmax(points[:, 1] < mouth - 1e-9))
    if below == 0:
        return np.vstack([[points[0, 0], mouth], points]) if points[0, 1] < mouth - 1e-9 else points
    a, b = points[below - 1], points[below]
    t = (a[1] - mouth) / (a[1] - b[1])
    return np.vstack([a + t * (b - a), points[below:]])


@dataclass(frozen=True)
class Tab:
    """The belt loop on the flat body: middle is its u; begins, the v where its fold begins; end, its top."""

    middle: float
    width: float
    begins: float
    end: float
    tab_rows: tuple[float, float]
    back_rows: tuple[float, float]
    places: Array
    crest: float

    @property
    def row(self) -> HoleLine:
        """One row of the loop's stitches, by lengths along it."""
        return straight_row(self.places)

    @property
    def inset(self) -> float:
        """From the last stitch of a row to the loop's side."""
        return self.right - float(self.places[-1])

    @property
    def left(self) -> float:
        return self.middle - self.width / 2

    @property
    def right(self) -> float:
        return self.middle + self.width / 2


def narrowest(back: Side, mouth: float, low: float) -> float:
    """How far from the fold the seam of the back lies where that is nearest, from the mouth down to a height, mm."""
    u, v = back.line.points.T
    between = (v <= mouth) & (v >= low)
    return float(u[between].min()) if between.any() else float(u[0])


def tab(loop: Loop, back: Side, mouth: float, first: float, margin: float, pitch: float) -> Tab:
    """Where the loop stands on the back. first: how far from the fold it may begin, mm. Raises InputError when it does
    not fit there.
    """
    width, rise = loop.width.value, loop.rise.value
    wide = float(back.cut[0, 0])
    seam = narrowest(back, mouth, mouth + rise - loop.rows[1] - margin)
    middle = -(first + seam - margin) / 2
    if middle + width / 2 > 0 or middle - width / 2 < -wide:
        room = 2 * min(-middle, wide + middle)
        raise InputError(
            f"a loop {width:.1f} mm wide does not fit the back, which has room for {room:.1f} mm",
            "loop.width",
            "make it narrower, or set loop.landing to none",
        )
    if rise < loop.begins:
        raise InputError(
            f"a rise of {rise:.1f} mm is less than the loop's own fold", "loop.rise",
            f"give at least {loop.begins:.1f} mm",
        )  # fmt: skip
    begins = mouth + rise - loop.begins
    tab_rows = (begins + loop.tab_rows[0], begins + loop.tab_rows[1])
    return Tab(
        middle, width, begins, tab_rows[1] + loop.margin, tab_rows,
        (mouth + rise - loop.rows[0], mouth + rise - loop.rows[1]),
        middle + row_places(width, margin, pitch), begins + loop.crest,
    )  # fmt: skip


def outline(front: Side, back: Side, mouth: float, relief: float, scooped: float, on: Tab | None) -> Array:
    """The body's cut line, closed, (n, 2), counter-clockwise from the foot of the fold.

    relief: depth of the scoop in the front's mouth, which spans from the fold to u = scooped. mm.
    """
    brim = front_edge(mouth, scooped, relief)
    back_run = np.array([[0.0, mouth]]) if on is None else np.vstack([[0.0, mouth], _tab_outline(on, mouth, back)])
    halves = [_nipped(s) for s in (front, back)]
    ring = np.vstack([halves[0][::-1], brim[::-1], back_run, halves[1] * FLIP])
    keep = np.hypot(*(ring - np.roll(ring, 1, axis=0)).T) > 1e-6
    ring = ring[keep]
    if not Polygon(ring).is_valid:
        raise InputError("its cut line crosses itself", "body", "widen the standoff or lessen the margin")
    return np.asarray(ring)


def _nipped(half: Side) -> Array:
    """The cut line of one half, its corner at the mouth rounded off as far as the first hole's margin allows."""
    cut, corner = half.cut, half.cut[0]
    away = np.hypot(*(cut - corner).T)
    first = half.holes.points[0]
    margin = float(np.hypot(*(cut - first).T).min())
    for radius in (CORNER, CORNER / 2, CORNER / 4):
        after = cut[int(np.argmax(away > radius))]
        arc = rounded(corner, corner - np.array([1.0, 0.0]), after, radius)
        if corner[0] > 4 * radius and np.hypot(*(arc - first).T).min() >= margin - 0.01:
            end = np.hypot(*(arc[-1] - corner))
            return np.vstack([arc, cut[away > end + 1e-9]])
    return cut


def _tab_outline(on: Tab, mouth: float, back: Side) -> Array:
    wide = back.cut[0, 0] - CORNER
    near, far = min(FILLET, -on.right * 0.9), min(FILLET, (wide + on.left) * 0.9)
    top = min(TAB_CORNER, on.width / 3)
    right, left, up = on.right, on.left, on.end
    spread = on.width / 2
    corners = [
        ((right, mouth), (right + 1, mouth), (right, mouth + 1), near),
        ((right, up), (right, up - 1), (right - spread, up), top),
        ((left, up), (left + spread, up), (left, up - 1), top),
        ((left, mouth), (left, mouth + 1), (left - 1, mouth), far),
    ]
    return np.vstack([
        rounded(np.array(c), np.array(b), np.array(a), r) if r > 0.2 else np.array([c]) for c, b, a, r in corners
    ])  # fmt: skip


def body(
    front: Side, back: Side, inner: tuple[Line, Line], cut: Array, mouth: float, margin: float,
    leather: Leather, seam: str, rows: tuple[str, str], on: Tab | None, diameter: float, glued: float,
) -> Piece:  # fmt: skip
    """The body piece, seen from the grain side: front to the right of the fold, back to the left.

    inner: the welt's inner edge on the front and on the back. glued: share of the way from there to the stitch,
    where the glue stops.
    """
    foot = float(front.cut[-1, 1])
    holes = [*punched(seam, "front", front.holes.points, diameter)]
    holes += punched(seam, "back", back.holes.points * FLIP, diameter)
    stitch = [stitched(front.line, front.holes), stitched(back.line, back.holes) * FLIP]
    folds = [np.array([[0.0, foot], [0.0, mouth]])]
    marks = [*register(front, margin), *(flipped(m) for m in register(back, margin))]
    if on is not None:
        folds.append(np.array([[on.left, on.crest], [on.right, on.crest]]))
        for name, tab_v, back_v in zip(rows, on.tab_rows, on.back_rows, strict=True):
            for edge, v in (("tab", tab_v), ("back", back_v)):
                row = np.column_stack([on.places, np.full(len(on.places), v)])
                holes += punched(name, edge, row, diameter)
                stitch.append(row)
    middle = float(front.line.points[0, 0]) / 2
    low = foot + (mouth - foot) * 0.72
    marks += [
        Mark("face", middle, low, "grain side up"),
        Mark("top", middle, low + 10, "top", (middle, low + 24)),
        Mark("side", middle, low - 8, "front"),
        Mark("side", -middle, low - 8, "back"),
        Mark("note", middle, low - 16, "right hand"),
        Mark("title", middle, low - 26, title("body", 1, leather.thickness)),
    ]
    rules = []
    for edge_of, half, turn in zip(inner, (front, back), (np.ones(2), FLIP), strict=True):
        rules.append(Rule("welt", edge_of.dense(0, edge_of.length, 1.0) * turn))
        rules.append(Rule("glue", _glue(edge_of, half.line, glued) * turn))
    return Piece(
        "body", 1, "body", leather.thickness, "grain", cut, role=Role.BODY,
        folds=tuple(folds), stitch=tuple(stitch), holes=tuple(holes), rules=tuple(rules), marks=tuple(marks),
    )  # fmt: skip


def stitched(line: Line, holes: HoleLine) -> Array:
    """The stitch line from its first hole to its last, through every hole, (n, 2)."""
    between = np.linspace(holes.at[0], holes.at[-1], 2 * len(line.points))
    return line(np.unique(np.concatenate([holes.at, between])))


def register(half: Side, margin: float) -> list[Mark]:
    """Strokes across the margin at three matched holes, by which pieces are brought together."""
    count = len(half.holes.points)
    marks = []
    for k in sorted({count // 4, count // 2, 3 * count // 4}):
        p, n = half.holes.points[k], half.line.normal(half.holes.at[k : k + 1])[0]
        start, end = p + 0.35 * margin * n, p + margin * n
        marks.append(Mark("register", float(start[0]), float(start[1]), "", (float(end[0]), float(end[1]))))
    return marks


def flipped(mark: Mark) -> Mark:
    toward = None if mark.toward is None else (-mark.toward[0], mark.toward[1])
    return Mark(mark.kind, -mark.x, mark.y, mark.text, toward)


def _glue(inner: Line, stitch: Line, back: float) -> Array:
    """Where the glue stops: back of the way from the welt's inner edge to the stitch."""
    share = np.linspace(0, 1, 2 * len(inner.points))
    return np.asarray((1 - back) * inner(share * inner.length) + back * stitch(share * stitch.length))
