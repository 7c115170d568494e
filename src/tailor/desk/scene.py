"""Scenes: what lies on the board, in mm, and the places measures are tied to.

Two scenes: the case made up, seen from the front with the object in it, and its pieces laid flat. Both keep
the draw direction level, so one bar and one mouth line run across either.
"""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field
from functools import cached_property, singledispatch

import numpy as np

from tailor.core.carried.loft import Array, outline
from tailor.core.draft.draft import Carriage, Draft, Fitted
from tailor.core.draft.flat_goods.built import Built
from tailor.core.draft.piece import FLIP, Piece
from tailor.core.draft.tooled.put import IN_LEATHER, MARKED
from tailor.core.draft.views.seen import Eye
from tailor.core.job import Job
from tailor.core.keys import MEASURES
from tailor.core.measure import Along
from tailor.core.packing import filling, stacked
from tailor.desk import theme
from tailor.files.lettering import COARSE, Lettering, Wide, lettering
from tailor.files.linework import strokes
from tailor.files.sheet import shortened

Place = tuple[float, float]
SHORTER = 0.7  # of the first piece's height, that a long strap is shown
LEAST_STRAP = 150.0  # mm of a long strap that is shown
ASPECT = 1.5  # of the board's width to its height
BETWEEN = 14.0  # mm between pieces
LEVEL = 1.0  # mm within which two ends are as high as each other
SEEN = 0.2  # how far leather looks to the front, that is seen from there
ZONE_OUT = 7.0  # mm from the object to its zone bars


@dataclass
class _Words:
    """What is written on a scene by the size of its letters, mm: all of it, what is under way, and what was before.

    glanced: it is looked at for a moment only, and what was before serves.
    """

    done: dict[float, tuple[Lettering, ...]] = field(default_factory=dict)
    begun: dict[float, tuple[Iterator[Lettering], list[Lettering]]] = field(default_factory=dict)
    before: dict[float, tuple[Lettering, ...]] = field(default_factory=dict)
    glanced: bool = False


@dataclass(eq=False)
class Scene:
    """fills: (outline, colour, alpha); lines: (kind, points, closed); pieces: those that lie flat, for their words."""

    fills: list[tuple[Array, str, int]] = field(default_factory=list)
    lines: list[tuple[str, Array, bool]] = field(default_factory=list)
    outlines: list[Array] = field(default_factory=list)
    behind: list[Array] = field(default_factory=list)
    holes: list[tuple[float, float, float]] = field(default_factory=list)
    pieces: list[Piece] = field(default_factory=list)
    captions: list[tuple[float, float, str]] = field(default_factory=list)  # words of one size however near it is seen
    zones: list[tuple[int, str, float, float, float]] = field(default_factory=list)  # index, kind, x, low, high
    stations: list[tuple[float, float, float]] = field(default_factory=list)  # x, x, y
    places: dict[str, Place] = field(default_factory=dict)
    shifts: dict[str, float] = field(default_factory=dict)  # how far each piece was moved aside
    lifts: dict[str, float] = field(default_factory=dict)  # how far up
    room: tuple[float, float, float, float] | None = None  # of a picture: left, bottom, right, top

    def lettered(self, size: float, wide: Wide, beside: float) -> tuple[Lettering, ...]:
        """What is written on the pieces that lie flat, in letters of a size, mm; worked once for each.

        beside: how far beside all of them words may stand, mm.
        """
        self.letter_on(size, wide, beside)
        return self.written(size)

    def letter_on(self, size: float, wide: Wide, beside: float, seconds: float = np.inf) -> bool:
        """Go on writing on the pieces, as `lettered` has it, for so long; whether all is written."""
        words, end = self._words, time.monotonic() + seconds
        if size in words.done or (words.glanced and words.before):
            return True
        if size not in words.begun:
            left, low, right, high = self.bounds
            within = (left - beside, low - beside, right + beside, high + beside)
            words.begun[size] = lettering(self.pieces, size, wide, COARSE, needed=False, within=within), []
        writing, written = words.begun[size]
        for each in writing:
            written.append(each)
            if time.monotonic() > end:
                return False
        words.done[size] = tuple(written)
        return True

    def written(self, size: float) -> tuple[Lettering, ...]:
        """What is written in letters of a size; until it is, what was written a moment ago."""
        words = self._words
        nearest = next(reversed((words.before | words.done).values()), ())
        return words.done.get(size) or words.before.get(size) or nearest

    def is_written(self, size: float) -> bool:
        return size in self._words.done

    def again(self) -> Scene:
        """The same scene once more: what is written on it is shared."""
        again = copy(self)
        again._words = self._words
        return again

    def borrow(self, other: Scene | None, rough: bool) -> None:
        """Take over what is written from a scene of the same pieces; rough: or of the same names, a moment ago. Of the
        same names it is shown at least until it is written anew.
        """
        if other is None or [p.name for p in other.pieces] != [p.name for p in self.pieces]:
            return
        words, theirs = self._words, other._words
        words.glanced = rough
        if not rough and all(_words_stay(one, same) for one, same in zip(other.pieces, self.pieces, strict=True)):
            words.done.update(theirs.done)
        words.before = dict(theirs.done or theirs.before)

    @cached_property
    def _words(self) -> _Words:
        return _Words()

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top, mm."""
        if self.room is not None:
            return self.room
        every = np.vstack([f[0] for f in self.fills] + [p for _, p, _ in self.lines] + self.outlines)
        return (*map(float, every.min(axis=0)), *map(float, every.max(axis=0)))  # type: ignore[return-value]


def _words_stay(one: Piece, other: Piece) -> bool:
    """Whether what is written on a piece would stand where it does on another of its name."""
    lines = [[rule.points for rule in piece.rules if rule.kind in MARKED] for piece in (one, other)]
    tooled = len(lines[0]) == len(lines[1]) and all(map(np.array_equal, *lines))
    return tooled and one.marks == other.marks and np.array_equal(one.cut, other.cut)


@singledispatch
def made_up(made: Draft, job: Job, bare: bool) -> Scene:
    """It made up, with what it holds in it. bare: the object stands out and the leather is only hinted at."""
    raise NotImplementedError


@made_up.register
def _(made: Built, job: Job, bare: bool) -> Scene:
    scene = Scene()
    for layer in made.shown:
        thing = layer.kind == "thing"
        scene.fills.append((layer.outline, theme.STUFF[layer.kind], 225 if thing else 70 if bare else 190))
        if thing:
            scene.outlines.append(layer.outline)
        else:
            scene.lines.append(("cut", layer.outline, True))
    scene.stations = [(s.x_spine, s.x_seam, s.y) for s in job.stations] if bare else []
    scene.lines += [] if bare else list(_tooled_up(made))
    return mirrored(scene) if made.mirrored else scene


def _tooled_up(made: Draft) -> Iterator[tuple[str, Array, bool]]:
    """What is tooled on leather that looks to the front, as it is seen once all is made up."""
    for piece in made.unmarked().pieces:
        lie = made.lies.get(piece.name)
        for rule in piece.rules if lie is not None else ():
            if rule.kind in IN_LEATHER and lie is not None:
                placed = lie(rule.points)
                if placed.out[:, 2].mean() > SEEN:
                    yield rule.kind, placed.at[:, :2], False


def tie(scene: Scene, lines: Mapping[Along, Array], named: Iterable[str] = MEASURES) -> None:
    """Tie measures to lines (n, 2) of the scene, each where its declaration says."""
    lengths = {along: np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
               for along, line in lines.items()}  # fmt: skip
    for name in named:
        if (at := MEASURES[name].at) is not None and at[0] in lines:
            line, upto = lines[at[0]], lengths[at[0]]
            x, y = (float(np.interp(at[1] * upto[-1], upto, line[:, k])) for k in (0, 1))
            scene.places[name] = (x, y)


def _down(line: Array, mouth: float = np.inf) -> Array:
    """A line from its upper end on the right, or from the mouth, down to its lowest place."""
    line = line if line[0, 1] >= line[-1, 1] else line[::-1]
    line = line if line[0, 0] >= line[-1, 0] or line[0, 1] - line[-1, 1] > LEVEL else line[::-1]
    line = line[: int(line[:, 1].argmin()) + 1]
    kept = line[line[:, 1] <= mouth]
    return kept if len(kept) > 1 else line


@made_up.register
def _(made: Fitted, job: Job, bare: bool) -> Scene:
    plan = made.plan
    mouth = made.value("mouth.y")
    thing = outline(made.shell.loft)
    fold_x = float(plan.outline[:, 0].min()) if plan.fold is None else float(plan.fold[-1, 0])
    scene = Scene()
    loop = plan.loop if made.carriage is None else made.carriage.outline
    if loop is not None:
        scene.fills.append((loop, theme.LEATHER, 40 if bare else 90))
        scene.behind.append(loop)
    if made.carriage is not None:
        scene.lines += [("cut", slot, True) for slot in made.carriage.slots]
    for part in made.lying:
        if part.behind:
            scene.fills.append((part.outline, theme.LEATHER, 90))
            scene.behind.append(part.outline)
    layers = [(thing, theme.STEEL, 225), (plan.outline, theme.LEATHER, 70 if bare else 190), (plan.strip,
        theme.WELTED, 110)]  # fmt: skip
    scene.fills += [layers[1], layers[0]] if bare else layers
    scene.outlines.append(thing)
    scene.lines += [("welt", plan.welt, False), ("stitch", plan.stitch, False), ("cut", plan.cut, False), ("cut",
        plan.mouth, False)]  # fmt: skip
    for part in made.lying:
        if not part.behind and not bare:
            scene.fills.append((part.outline, theme.LEATHER, 215))
            scene.lines.append(("cut", part.outline, True))
    if plan.fold is not None:
        scene.lines.append(("fold", plan.fold, False))
    scene.lines += [] if bare else list(_tooled_up(made))
    left = float(min(thing[:, 0].min(), fold_x)) - ZONE_OUT
    lanes: dict[int, float] = {}
    for i, zone in enumerate(job.zones):
        lane = next(n for n in range(9) if lanes.get(n, -1e9) <= zone.low + 1e-6)
        lanes[lane] = zone.high
        scene.zones.append((i, zone.kind.value, left - 7 * lane, zone.low, zone.high))
        scene.places[f"fit.{zone.kind}"] = (left - 7 * lane, 0.12 * zone.low + 0.88 * zone.high)
    if bare:
        scene.stations = [(s.x_spine, s.x_seam, s.y) for s in job.stations]
    _places_made_up(scene, made, fold_x, mouth)
    return mirrored(scene) if made.mirrored else scene


def relieved(job: Job, made: Draft, eye: Eye, room: tuple[float, float, float, float]) -> Scene:
    """What is drawn over a relief: from the front and from behind its stitches; measures are tied only in front."""
    scene = Scene(room=room)
    turned = (eye is Eye.BEHIND) != made.mirrored
    if eye is not Eye.EDGE and made.plan is not None:
        way = FLIP if turned else np.ones(2)
        scene.lines = [("stitch", made.plan.stitch * way, False), ("cut", made.plan.outline * way, True)]
    if eye is Eye.FRONT:
        scene.places = made_up(made, job, bare=False).places
    return scene


def _places_made_up(scene: Scene, made: Fitted, fold_x: float, mouth: float) -> None:
    plan, tip = made.plan, made.shell.loft.tip
    middle = float(np.mean([fold_x, made.standoff.x_seam.mean()]))
    lines = {
        Along.SEAM: _down(plan.stitch), Along.INNER: _down(plan.welt, mouth), Along.EDGE: _down(plan.cut, mouth),
        Along.WELT: _down(plan.stitch), Along.MOUTH: plan.mouth[plan.mouth[:, 0].argsort(kind="stable")],
        Along.MIDDLE: np.array([(middle, mouth), (middle, tip)]),
    }  # fmt: skip
    if plan.fold is not None:
        lines[Along.FOLD] = plan.fold if plan.fold[0, 1] > plan.fold[-1, 1] else plan.fold[::-1]
    tie(scene, lines)
    k = int(np.argmax(made.standoff.distance))
    x_welt, x_seam = float(made.standoff.x_welt[k]), float(made.standoff.x_seam[k])
    scene.places["seam.standoff"] = ((x_welt + x_seam) / 2, float(made.standoff.rows[k]))
    for part in made.lying:
        (left, low), (right, high) = part.outline.min(axis=0), part.outline.max(axis=0)
        mine = [name for name, m in MEASURES.items() if name.startswith(f"{part.name}.") and m.first]
        for k, name in enumerate(mine):
            beside = float(left if k % 2 else right)
            scene.places[name] = (beside, float(high - (k + 1) * (high - low) / (len(mine) + 1)))
    if made.carriage is not None:
        places_carried(scene, made.carriage)


def places_carried(scene: Scene, on: Carriage) -> None:
    """Where the measures of what it rides by are tied."""
    tie(scene, _sides_of(on.outline.min(axis=0), on.outline.max(axis=0)))
    scene.places["loop.drop"] = on.pivot


def _sides_of(low: Array, high: Array) -> dict[Along, Array]:
    """The edges of a loop, upward."""
    left, right = np.array([low, (low[0], high[1])]), np.array([(high[0], low[1]), high])
    return {Along.LOOP_LEFT: left, Along.LOOP_RIGHT: right}


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
    down = holes[:side]
    inner, edge = made.inner.points, made.front.cut
    middle, foot = float(down[0, 0]) / 2, float(holes[:, 1].min())
    upper = np.array([(float(down[0, 0]) if made.plan.fold is None else 0.0, mouth), (float(down[0, 0]), mouth)])
    lines = {
        Along.SEAM: on(down), Along.INNER: on(_down(inner, mouth)), Along.EDGE: on(_down(edge, mouth)),
        Along.WELT: on(down, "welt"),
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
        lines |= {k: on(v, piece) for k, v in _sides_of(np.array([tab.left, ends[0]]), np.array([tab.right, ends[1]]))
                  .items()}  # fmt: skip
    tie(scene, lines)
    for name, spot in (
        ("mouth.relief", (float(inner[0, 0]) / 2, mouth - made.value("mouth.relief"))),
        ("seam.toe", (0.0, float(inner[:, 1].min()))),
    ):
        x, y = on(np.array(spot)).tolist()
        scene.places[name] = (x, y)


def mirrored(scene: Scene) -> Scene:
    """The scene as the left hand sees it."""
    room = scene.room
    return Scene(
        fills=[(p * FLIP, c, a) for p, c, a in scene.fills], lines=[(k, p * FLIP, c) for k, p, c in scene.lines],
        outlines=[p * FLIP for p in scene.outlines],         behind=[p * FLIP for p in scene.behind],
        holes=[(-x, y, d) for x, y, d in scene.holes],
        captions=[(-x, y, t) for x, y, t in scene.captions],
        zones=[(i, k, -x, low, high) for i, k, x, low, high in scene.zones],
        stations=[(-b, -a, y) for a, b, y in scene.stations], places={k: (-x, y) for k, (x, y) in scene.places.items()},
        shifts=scene.shifts, lifts=scene.lifts, room=None if room is None else (-room[2], room[1], -room[0], room[3]),
    )  # fmt: skip
