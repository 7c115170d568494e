"""Scenes: what lies on the board, in mm, and the places measures are tied to.

Two scenes: the case made up, seen from the front with the object in it, and its pieces laid flat. Both keep
the draw direction level, so one bar and one mouth line run across either.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from tailor.core.carried.loft import Array, outline
from tailor.core.draft.built import Built
from tailor.core.draft.draft import Carriage, Draft, Fitted
from tailor.core.draft.piece import FLIP, Mark, Piece
from tailor.core.draft.seen import Eye
from tailor.core.job import Job
from tailor.core.keys import PATCHES
from tailor.desk import theme
from tailor.desk.measures import ADDED, PATCH
from tailor.files.linework import strokes
from tailor.files.sheet import moved, shortened

Place = tuple[float, float]
SHORTER = 0.7  # of the first piece's height, that a long strap is shown
LEAST_STRAP = 150.0  # mm of a long strap that is shown
ASPECT = 1.5  # of the board's width to its height
BETWEEN = 14.0  # mm between pieces
ZONE_OUT = 7.0  # mm from the object to its zone bars


@dataclass(eq=False)
class Scene:
    """fills: (outline, colour, alpha); lines: (kind, points, closed); words: (x, y, text, angle, mm of room for it)."""

    fills: list[tuple[Array, str, int]] = field(default_factory=list)
    lines: list[tuple[str, Array, bool]] = field(default_factory=list)
    outlines: list[Array] = field(default_factory=list)
    behind: list[Array] = field(default_factory=list)
    holes: list[tuple[float, float, float]] = field(default_factory=list)
    words: list[tuple[float, float, str, float, float]] = field(default_factory=list)
    captions: list[tuple[float, float, str]] = field(default_factory=list)  # words of one size however near it is seen
    zones: list[tuple[int, str, float, float, float]] = field(default_factory=list)  # index, kind, x, low, high
    stations: list[tuple[float, float, float]] = field(default_factory=list)  # x, x, y
    places: dict[str, Place] = field(default_factory=dict)
    shifts: dict[str, float] = field(default_factory=dict)  # how far each piece was moved aside
    lifts: dict[str, float] = field(default_factory=dict)  # how far up
    room: tuple[float, float, float, float] | None = None  # of a picture: left, bottom, right, top

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Left, bottom, right, top, mm."""
        if self.room is not None:
            return self.room
        every = np.vstack([f[0] for f in self.fills] + [p for _, p, _ in self.lines] + self.outlines)
        return (*map(float, every.min(axis=0)), *map(float, every.max(axis=0)))  # type: ignore[return-value]


def built_up(job: Job, made: Built, bare: bool) -> Scene:
    """A thing of flat panels made up, seen from the front, what it holds in it."""
    scene = Scene()
    for layer in made.shown:
        thing = layer.kind == "thing"
        scene.fills.append((layer.outline, theme.STUFF[layer.kind], 225 if thing else 70 if bare else 190))
        if thing:
            scene.outlines.append(layer.outline)
        else:
            scene.lines.append(("cut", layer.outline, True))
    every = np.vstack([layer.outline for layer in made.shown])
    (left, low), (right, high) = every.min(axis=0), every.max(axis=0)
    keys = [*made.words, *made.reasons, *PATCH]
    for k, key in enumerate(keys):
        share = (k + 0.5) / len(keys)
        scene.places[key] = (float(left if k % 2 else right), float(high - share * (high - low)))
    scene.stations = [(s.x_spine, s.x_seam, s.y) for s in job.stations] if bare else []
    return mirrored(scene) if made.mirrored else scene


def _places_built(scene: Scene, made: Built) -> None:
    """Where measures are tied: where the construction says, else down the first of its pieces."""
    turn = -1.0 if made.mirrored else 1.0
    first = made.pieces[0]
    (left, low), (right, high) = first.cut.min(axis=0), first.cut.max(axis=0)
    keys = [key for key in (*made.words, *made.reasons) if key not in made.tied]
    for k, key in enumerate(keys):
        share = (k + 0.5) / len(keys)
        x = left + (right - left) * (0.15 + 0.7 * (k % 2))
        y = float(high - share * (high - low)) + scene.lifts[first.name]
        scene.places[key] = (float(x) + scene.shifts[first.name], y)
    for key, (name, x, y) in made.tied.items():
        scene.places[key] = (turn * x + scene.shifts[name], y + scene.lifts[name])


def made_up(job: Job, made: Fitted, bare: bool) -> Scene:
    """The case with the object in it. bare: the object stands out and the leather is only hinted at."""
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


def relieved(job: Job, made: Fitted, eye: Eye, room: tuple[float, float, float, float]) -> Scene:
    """What is drawn over a relief: from the front and from behind its stitches; measures are tied only in front."""
    scene = Scene(room=room)
    turned = (eye is Eye.BEHIND) != made.mirrored
    if eye is not Eye.EDGE:
        way = FLIP if turned else np.ones(2)
        scene.lines = [("stitch", made.plan.stitch * way, False), ("cut", made.plan.outline * way, True)]
    if eye is Eye.FRONT:
        scene.places = made_up(job, made, bare=False).places
    return scene


def _places_made_up(scene: Scene, made: Fitted, fold_x: float, mouth: float) -> None:
    rows, stand = made.standoff.rows, made.standoff
    inset, margin = made.value("seam.stitch_inset"), made.value("seam.margin")
    tip = made.shell.loft.tip
    height = mouth - tip

    def across(share: float) -> tuple[float, float, float]:
        y = tip + share * height
        return float(np.interp(y, rows, stand.x_seam)), float(np.interp(y, rows, stand.x_welt)), y

    at = scene.places
    k = int(np.argmax(stand.distance))
    at["seam.standoff"] = (float(stand.x_welt[k] + stand.x_seam[k]) / 2, float(rows[k]))
    for share, key in ((0.62, "welt.width"), (0.52, "welt.layers"), (0.42, "welt.thickness")):
        _, x, y = across(share)
        at[key] = (x + inset * 0.5, y)
    _, x, y = across(0.3)
    at["seam.stitch_inset"] = (x + inset, y)
    at["seam.pitch"] = at["seam.hole"] = at["seam.stitch_inset"]
    at["seam.margin"] = at["welt.proud"] = (x + inset + margin, y - 6)
    at["mouth.y"] = (fold_x, mouth)
    at["mouth.relief"] = tuple(map(float, made.plan.mouth[int(made.plan.mouth[:, 1].argmin())]))
    middle_x = fold_x if made.plan.fold is not None else float(made.plan.welt[made.plan.welt[:, 1].argmin(), 0])
    at["seam.toe"] = (middle_x, tip - made.value("seam.toe") / 2)
    at["leather.fold_radius"] = (fold_x, tip + 0.4 * height)
    at["fold.uneven"] = (fold_x, tip + 0.2 * height)
    at["fit.clearance"] = (fold_x + 2, tip + 0.55 * height)
    middle = float(np.mean([fold_x, stand.x_seam.mean()]))
    at["leather.thickness"] = (middle, tip + 0.72 * height)
    at["leather.temper"] = at["leather.neutral"] = (middle, tip + 0.62 * height)
    at["fit.approach"] = (across(0.95)[1], across(0.95)[2])
    at["hand"] = (middle, tip + 0.3 * height)
    k = int(np.abs(rows - (tip + 0.5 * height)).argmin())
    at["mould.valley"] = at["mould.stretch"] = (float(stand.x_seam[k] + 1), float(rows[k]))
    at["mould.method"] = at["mould.where"] = (middle, tip + 0.5 * height)
    at["leather.turn"] = (middle, tip + 0.85 * height)
    at["mould.margin"] = (x + inset + margin, tip + 0.12 * height)
    for key in PATCH:
        at[key] = (x + inset, tip + 0.2 * height)
    at["back.above"] = at["back.tab"] = at["holster.made"] = (middle, mouth)
    at["loop.landing"] = at["strap.buckle"] = (middle, mouth - 4.0)
    at["strap.length"] = at["strap.reach"] = at["strap.cut"] = at["strap.pad"] = (middle, mouth - 4.0)
    at["keeper.way"] = at["flap.closing"] = tuple(map(float, made.plan.mouth[len(made.plan.mouth) // 3]))
    for part in made.lying:
        (low_x, low), (high_x, high) = part.outline.min(axis=0), part.outline.max(axis=0)
        for k, key in enumerate(("way", "closing", "width", "at", "length", "button", "overlap", "tab", "reach")):
            beside = float(high_x if k % 2 else low_x)
            at[f"{part.name}.{key}"] = (beside, float(high - (k + 1) * (high - low) / 10))
    if made.carriage is not None:
        places_carried(scene, made, made.carriage)


def places_carried(scene: Scene, made: Fitted, on: Carriage) -> None:
    """Where the measures of a belt loop are tied."""
    (left, low), (right, high) = on.outline.min(axis=0), on.outline.max(axis=0)
    at = scene.places

    def up(share: float) -> float:
        return float(low + share * (high - low))

    at["loop.width"] = (float(right), up(0.5))
    at["loop.length"] = (float(right), up(0.75))
    at["loop.rise"] = at["loop.landing"] = (float(left), up(0.97))
    at["loop.foot"] = (float(right), up(0.06))
    at["loop.drop"] = (on.pivot[0], on.pivot[1])
    at["belt.width"], at["belt.thickness"] = (float(left), up(0.3)), (float(left), up(0.5))
    at["loop.ring"] = at["loop.clip"] = at["carry.side"] = (on.pivot[0], up(0.8))
    at["slots.length"], at["slots.play"] = (float(left), up(0.4)), (float(left), up(0.6))
    at["slots.width"], at["slots.web"] = (float(right), up(0.6)), (float(right), up(0.8))
    at["loop.play"], at["carry.cant"] = (float(left), up(0.7)), (on.pivot[0], up(0.9))


def flat(made: Draft) -> Scene:
    """The pieces side by side: those of a case with their levels kept, others in rows."""
    scene = Scene()
    longest = max(LEAST_STRAP, SHORTER * float(np.ptp(made.pieces[0].cut[:, 1])))
    drawn = [shortened(p, longest) for p in made.pieces]
    placed = [
        moved(p, by) for p, by in zip(drawn, _rows(drawn) if isinstance(made, Built) else _level(drawn), strict=True)
    ]
    for whole, piece in zip(drawn, placed, strict=True):
        low = piece.cut.min(axis=0) - whole.cut.min(axis=0)
        scene.shifts[piece.name], scene.lifts[piece.name] = float(low[0]), float(low[1])
        scene.fills.append(
            (piece.cut, theme.LEATHER if piece.leather == "body" else theme.STUFF.get(piece.leather, theme.WELTED), 120)
        )
        scene.lines += [(s.kind, s.points, s.closed) for s in strokes(piece)]
        scene.holes += [(h.x, h.y, h.diameter) for h in piece.holes]
        scene.words += [(m.x, m.y, *_brief(piece, m)) for m in piece.marks if m.text]
    if isinstance(made, Built):
        _places_built(scene, made)
    else:
        assert isinstance(made, Fitted)
        _places_flat(scene, made, placed)
    _places_added(scene, made, placed)
    return scene


def _places_added(scene: Scene, made: Draft, placed: Sequence[Piece]) -> None:
    """Where the measures of what is sewn on are tied: down its own piece; of what is not there yet, down the last."""
    by_name = {piece.name: piece for piece in placed}
    for slot in PATCHES:
        piece = by_name.get(made.added.get(slot, ""), placed[-1])
        (left, low), (right, high) = piece.cut.min(axis=0), piece.cut.max(axis=0)
        for k, last in enumerate(ADDED):
            beside = left if k % 2 else right
            scene.places[f"{slot}.{last}"] = (float(beside), float(high - (k + 0.5) * (high - low) / len(ADDED)))


def _level(pieces: Sequence[Piece]) -> list[Array]:
    """How far pieces are moved to lie side by side, (2,) each, levels kept."""
    x, moves = 0.0, []
    for piece in pieces:
        moves.append(np.array([x - float(piece.cut[:, 0].min()), 0.0]))
        x += float(np.ptp(piece.cut[:, 0])) + BETWEEN
    return moves


def _rows(pieces: Sequence[Piece]) -> list[Array]:
    """How far pieces are moved to lie in rows, about as wide together as the board is, their upper edges level."""
    sizes = np.array([np.ptp(p.cut, axis=0) for p in pieces]) + BETWEEN
    room = max(float(np.sqrt(ASPECT * sizes.prod(axis=1).sum())), float(sizes[:, 0].max()))
    x, top, deep, moves = 0.0, 0.0, 0.0, []
    for piece, (wide, high) in zip(pieces, sizes, strict=True):
        if x > 0 and x + wide > 1.15 * room:
            x, top, deep = 0.0, top - deep, 0.0
        moves.append(np.array([x, top - high + BETWEEN]) - piece.cut.min(axis=0))
        x, deep = x + float(wide), max(deep, float(high))
    return moves


def _brief(piece: Piece, mark: Mark) -> tuple[str, float, float]:
    """What of a mark is written on the board, its angle, and the room there is for it about its middle, mm."""
    text = mark.text if piece.leather == "body" else mark.text.split(" · front")[0].split(" from")[0]
    along, at = (piece.cut[:, 1], mark.y) if mark.angle else (piece.cut[:, 0], mark.x)
    return text, mark.angle, 2 * float(min(at - along.min(), along.max() - at))


def _places_flat(scene: Scene, made: Fitted, placed: Sequence[Piece]) -> None:
    """Where measures are tied: on the sheet the front is sewn by, else on its template; the welt's on the welt."""
    names = [p.name for p in made.pieces]
    sewn = next(k for k, p in enumerate(made.pieces) if any(h.edge == "front" for h in p.holes))
    shift = placed[sewn].cut[:, 0].min() - made.pieces[sewn].cut[:, 0].min()
    welt = names.index("welt")
    shift_welt = placed[welt].cut[:, 0].min() - made.pieces[welt].cut[:, 0].min()
    turn = FLIP if made.mirrored else np.ones(2)
    mouth, margin, inset = made.value("mouth.y"), made.value("seam.margin"), made.value("seam.stitch_inset")

    def on(point: Array, out: float = 0.0, piece: float | None = None) -> Place:
        piece = shift if piece is None else piece
        found = np.asarray(point, dtype=float) * turn
        return float(found[0] + piece + out * turn[0]), float(found[1])

    line, holes = made.front.line, made.front.holes.points
    side = int(holes[:, 1].argmin()) + 1 if made.plan.fold is None else len(holes)  # holes down the seam side
    n = side
    at = scene.places
    at["mouth.y"] = on(np.array([holes[0, 0] + margin, mouth]))
    at["mouth.relief"] = on(np.array([made.inner.points[0, 0] / 2, mouth - made.value("mouth.relief")]))
    at["seam.first_hole"] = on(holes[0])
    at["seam.pitch"] = on((holes[n // 5] + holes[n // 5 + 1]) / 2)
    at["seam.hole"] = on(holes[n // 3])
    at["seam.stitch_inset"] = on(holes[n // 2], -inset * 0.6)
    at["seam.margin"] = on(holes[2 * n // 3], margin * 0.7)
    at["seam.standoff"] = on(holes[n // 8], -inset)
    at["seam.toe"] = on(np.array([0.0, float(made.inner.points[:, 1].min())]))
    at["leather.thickness"] = on(np.array([-holes[0, 0] * 0.5, mouth * 0.75]))
    at["seam.thread"] = at["seam.stack"] = on(holes[5 * n // 6])
    at["seam.chord"] = on((holes[n // 4] + holes[n // 4 + 1]) / 2)
    at["seam.fairing"] = at["seam.faired"] = on(line(np.array([0.75 * line.length * n / len(holes)]))[0])
    for share, key in enumerate((
        "stitch.method", "stitch.holes", "stitch.thread", "stitch.marks", "stitch.count", "stitch.bed",
        "seam.count", "seam.time", "back.drain", "seam.lanyard",
    )):  # fmt: skip
        at[key] = on(holes[(2 * share + 3) * n // 24])
    at["stitch.back"], at["stitch.wrap"] = on(holes[1]), on(holes[0])
    at["seam.rivets"] = on(holes[2], -inset / 2)
    at["welt.width"] = on(holes[n // 6], 0.0, shift_welt)
    at["welt.proud"] = on(holes[n // 4], margin, shift_welt)
    at["welt.layers"] = on(holes[n // 3], 0.0, shift_welt)
    at["holster.made"] = at["back.above"] = at["back.tab"] = on(holes[0] * FLIP if made.plan.fold is None else holes[0])
    at["hand"] = on(holes[-1] if made.plan.fold is None else made.front.cut[-1])
    if "front blank" in names:
        cut = placed[names.index("front blank")].cut
        at["mould.margin"] = tuple(map(float, cut[int(np.abs(cut[:, 1] - cut[:, 1].mean()).argmin())]))
    if made.plan.fold is not None:
        across = made.back.holes.points * FLIP
        at["seam.chord"] = on((across[n // 4] + across[n // 4 + 1]) / 2)
        at["seam.fold_hole"] = on(holes[-1])
        at["leather.fold_radius"] = on(np.array([0.0, mouth * 0.6]))
        at["fold.uneven"] = on(np.array([0.0, mouth * 0.45]))
    if made.tab is not None:
        tab, rise = made.tab, made.value("loop.rise")
        if made.plan.fold is None:  # it stands on the back
            back = names.index("back")
            shift = placed[back].cut[:, 0].min() - made.pieces[back].cut[:, 0].min()
        at["loop.width"] = on(np.array([tab.left, (tab.begins + tab.end) / 2]))
        at["loop.length"] = on(np.array([tab.right, (tab.begins + tab.end) / 2]))
        at["loop.rise"] = on(np.array([tab.left, mouth + rise]))
        at["belt.width"] = on(np.array([tab.left, tab.end * 0.7 + tab.begins * 0.3]))
        at["belt.thickness"] = on(np.array([tab.left, tab.crest]))
        at["loop.play"] = on(np.array([tab.right, tab.tab_rows[0]]))
        at["loop.landing"] = on(np.array([tab.left, tab.back_rows[0]]))


def mirrored(scene: Scene) -> Scene:
    """The scene as the left hand sees it."""
    room = scene.room
    return Scene(
        fills=[(p * FLIP, c, a) for p, c, a in scene.fills], lines=[(k, p * FLIP, c) for k, p, c in scene.lines],
        outlines=[p * FLIP for p in scene.outlines], behind=[p * FLIP for p in scene.behind],
        holes=[(-x, y, d) for x, y, d in scene.holes], words=[(-x, y, t, -a, r) for x, y, t, a, r in scene.words],
        captions=[(-x, y, t) for x, y, t in scene.captions],
        zones=[(i, k, -x, low, high) for i, k, x, low, high in scene.zones],
        stations=[(-b, -a, y) for a, b, y in scene.stations], places={k: (-x, y) for k, (x, y) in scene.places.items()},
        shifts=scene.shifts, lifts=scene.lifts, room=None if room is None else (-room[2], room[1], -room[0], room[3]),
    )  # fmt: skip
