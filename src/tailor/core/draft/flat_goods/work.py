"""Work: a thing of flat panels as it is put together: panels are cut, edges joined, numbers given their reasons.

A construction begins one, says what it cuts and sews, and asks for the draft; it keeps the draft's parts in step.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely

from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.draft import Hardware
from tailor.core.draft.flat_goods.built import Built, Claim, Cross, Joint, Slab
from tailor.core.draft.piece import Finish, Fitting, Mark, Piece, Rule, Seam, panel, punched
from tailor.core.draft.stitch.holes import Edge, joined, turning
from tailor.core.draft.stitch.sewn import Stitching, even_stack, sewn, stitching_of
from tailor.core.draft.stuff import leather_for, leather_of
from tailor.core.draft.style import Order
from tailor.core.draft.worn.hung import Halves
from tailor.core.errors import InputError
from tailor.core.habit import Habit
from tailor.core.keys import KEYS
from tailor.core.leather.fastenings import Fastening
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer as Ply
from tailor.core.leather.stack import Stack
from tailor.core.placed.held import Carried, Room, Round, Shut, Thing
from tailor.core.placed.lies import Lie
from tailor.core.placed.rings import Ring
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

STUFF = {"lining": 0.8, "board": 2.0, "foam": 6.0, "webbing": 1.2}  # mm thick, where a construction says no other


@dataclass
class Work:
    """What has been made so far. size: the object's across, along and through, mm."""

    order: Order
    settings: Settings = field(init=False)
    loft: Loft = field(init=False)
    leather: Leather = field(init=False)
    how: Stitching = field(init=False)
    size: tuple[float, float, float] = field(init=False)
    pieces: dict[str, Piece] = field(default_factory=dict)
    reasons: dict[str, Reason] = field(default_factory=dict)
    claims: list[Claim] = field(default_factory=list)
    joints: list[Joint] = field(default_factory=list)
    hardware: list[Hardware] = field(default_factory=list)
    first: list[Finish] = field(default_factory=list)
    tied: dict[str, tuple[str, float, float]] = field(default_factory=dict)
    words: list[str] = field(default_factory=list)
    stiff: list[tuple[str, float]] = field(default_factory=list)
    sewn: list[Seam] = field(default_factory=list)
    lies: dict[str, Lie] = field(default_factory=dict)
    rings: list[Ring] = field(default_factory=list)
    drawn: list[tuple[str, str]] = field(default_factory=list)
    sling: Halves | None = None
    held: list[Thing | Room | Carried] = field(default_factory=list)
    rounds: list[Round] = field(default_factory=list)
    shuts: list[Shut] = field(default_factory=list)
    parting: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.settings, self.loft = self.order.settings, self.order.loft
        self.leather = leather_of(self.settings)
        self.how = stitching_of(self.settings, self.leather, ends=2)
        rows = self.loft.sizes(np.array([s.y for s in self.loft.stations]))
        wide = float((rows[:, 0] + rows[:, 1]).max() - rows[:, 0].min())
        self.size = wide, self.loft.top - self.loft.tip, float((rows[:, 2] + rows[:, 3]).max())
        for reason in self.how.reasons():
            self.reasons[reason.name] = reason
        self.say("leather.thickness", self.leather.thickness, "the leather of its panels")

    # Numbers

    def say(self, key: str, value: float, rule: str, unit: str = "mm", **fed: float) -> float:
        """A number by its key: what the maker pinned, or the computed one, with its reason kept."""
        reason = stated(key, value, unit, rule, **fed)
        settled = self.settings.settled(reason) if key in KEYS else reason
        self.reasons[key] = settled
        return settled.value

    def habit(self, habit: Habit) -> float:
        """The number that the job's maker goes by."""
        return self.settings.habit(habit)

    def given(self, key: str, rule: str, unit: str = "mm") -> float:
        """A number that has a usual value."""
        return self.say(key, self.settings.number(key), rule, unit)

    def word(self, key: str) -> str:
        """A setting that is a word."""
        if key not in self.words:
            self.words.append(key)
        return self.settings.word(key)

    def leather_for(self, part: str) -> Leather:
        """The leather of a part that may have one of its own, its reason kept."""
        leather, why = leather_for(self.settings, part)
        self.reasons[why.name] = why
        return leather

    def margin(self, layers: float) -> float:
        """Stitch line to cut edge for a stack so high."""
        stack = Stack((Ply("all", layers),))
        return self.say("seam.margin", stack.margin(), "grows with the stack that is sewn", stack=layers)

    def claim(self, name: str, value: float, limit: float, bare: float, holds: str, fails: str, **more: object) -> None:
        """Something to be judged."""
        self.claims.append(Claim(name, value, limit, bare, holds, fails, **{"where": "all of it", **more}))  # type: ignore[arg-type]

    # Where it goes

    def lie(self, name: str, lie: Lie) -> None:
        """How a piece lies once the thing is put together."""
        self.lies[name] = lie

    # Leather

    def cut(
        self, name: str, outline: Array, *, count: int = 1, stuff: str = "body", thick: float | None = None,
        folds: Sequence[Array] = (), rules: Sequence[Rule] = (), openings: Sequence[Array] = (), said: str = "",
        words: tuple[float, float] | None = None,
    ) -> Piece:  # fmt: skip
        """A panel, grain side up. words: where they stand; else in its middle. Kept by its name."""
        if thick is None:
            thick = self.leather.thickness if stuff == "body" else STUFF[stuff]
        piece = panel(
            name, outline, thick, count=count, stuff=stuff, folds=folds, rules=rules, openings=openings, said=said,
            words=words,
        )  # fmt: skip
        self.pieces[name] = piece
        return piece

    def mark(self, name: str, *rules: Rule) -> None:
        """More lines on a piece."""
        self.pieces[name] = replace(self.pieces[name], rules=(*self.pieces[name].rules, *rules))

    def label(self, name: str, *marks: Mark) -> None:
        """More words on a piece."""
        self.pieces[name] = replace(self.pieces[name], marks=(*self.pieces[name].marks, *marks))

    def join(
        self, seam: str, *sides: tuple[str, str, Edge], further: Sequence[float] | None = None, margin: float = 3.0,
        eased: float = 0.0, more: Sequence[str] = (), bend: float | None = None, ruled: bool = True,
    ) -> None:  # fmt: skip
        """Sew edges to each other: (piece, name of the edge, edge). Equal holes on all, in step at their anchors.

        further: how far each lies outside the first, for the rule of the turning angle; bend: that angle, where it is
        not the first edge's own. more: pieces caught in the seam that have no holes of their own.
        """
        try:
            lines = joined([e for _, _, e in sides], self.how.pitch.value, self.how.odd)
        except InputError as error:
            raise InputError(error.what, f"seam {seam}", error.remedy) from None
        for (name, label, _), line in zip(sides, lines, strict=True):
            piece = self.pieces[name]
            holes = punched(seam, label, line.points, self.how.hole.value)
            self.pieces[name] = replace(piece, holes=(*piece.holes, *holes), stitch=(*piece.stitch, line.points))
        names = tuple(dict.fromkeys((*(name for name, _, _ in sides), *more)))
        plies = [Ply(name, self.pieces[name].thickness) for name, _, _ in sides]
        plies += [Ply(name, self.pieces[name].thickness) for name in more]
        profile = even_stack(Stack(tuple(plies)), lines[0])
        self.sewn.append(sewn(seam, names, tuple(label for _, label, _ in sides), lines[0], profile, self.how, margin,
            self.how.wrapped))  # fmt: skip
        ends = sides[0][2]
        turned = turning(ends.line, ends.anchors[0], ends.anchors[-1]) if bend is None else bend
        lengths = tuple(float(e.anchors[-1] - e.anchors[0]) for _, _, e in sides)
        self.joints.append(Joint(seam, lengths, tuple(further or [0.0] * len(sides)), float(turned), eased, ruled))

    def meet_in_the_middle(self, seam: str) -> None:
        """Strokes across the edge at the middle of a seam on every piece, since it is sewn from there outward."""
        for name, piece in self.pieces.items():
            for edge in dict.fromkeys(h.edge for h in piece.holes if h.seam == seam):
                holes = piece.holes_of(seam, edge)
                at = holes[len(holes) // 2]
                near = shapely.LinearRing(piece.cut).interpolate(
                    shapely.LinearRing(piece.cut).project(shapely.Point(at))
                )
                start = at + 0.35 * (np.array([near.x, near.y]) - at)
                stroke = Mark("register", float(start[0]), float(start[1]), "", (float(near.x), float(near.y)))
                self.label(name, stroke)

    def fit(self, fastening: str, place: str, key: str, *at: tuple[str, tuple[float, float]]) -> None:
        """A fastening through pieces, at a place on each, outermost first; where leather is doubled, at two of one.

        Told with the post it wants, and whether it has room.
        """
        size = self.settings.maker.fastening(fastening, key)
        stack = sum(self.pieces[name].thickness for name, _ in at)
        room = True
        for name, (x, y) in at:
            piece = self.pieces[name]
            room &= _room(piece, x, y, size, place)
            fitting = Fitting(fastening, float(x), float(y), size.hole, size.cap, place)
            self.pieces[name] = replace(piece, fittings=(*piece.fittings, fitting))
        self.hardware.append(Hardware(fastening, place, float(at[0][1][1]), stack, size.post(stack), room, 0.0, key))

    def hole(self, name: str, at: tuple[float, float], diameter: float) -> None:
        """A plain hole, for a tie or a tongue."""
        piece = self.pieces[name]
        self.pieces[name] = replace(piece, fittings=(*piece.fittings, Fitting("hole", *at, diameter, diameter)))

    def trim(self, name: str, place: str, key: str, count: int = 1) -> None:
        """A ring, a buckle or the like, which nothing is punched for."""
        self.hardware += [Hardware(name, place, 0.0, 0.0, None, True, 0.0, key)] * count

    def finish_first(self, name: str, where: str, line: Array | None = None) -> None:
        """An edge to be finished before it is buried or out of reach; all round where no line is given."""
        piece = self.pieces[name]
        ring = np.vstack([piece.cut, piece.cut[:1]]) if line is None else line
        self.mark(name, Rule("finish", ring))
        self.first.append(Finish(name, where))

    def tie(self, piece: str, **places: tuple[float, float]) -> None:
        """Where measures are tied on a piece. Keys are written with __ for the point."""
        self.tied.update({key.replace("__", "."): (piece, *at) for key, at in places.items()})

    def built(
        self, inside: tuple[float, float, float] | None, asked: tuple[float, float, float], crosses: Sequence[Cross],
        shown: Sequence[Slab], centred: bool = True,
    ) -> Built:  # fmt: skip
        """The draft. centred: what is shown lies about the middle of the object, not where its table has it."""
        rows = self.loft.sizes(np.array([s.y for s in self.loft.stations]))
        aside = (float(rows[:, 0].min()) + self.size[0] / 2 if centred else 0.0), 0.0
        shown = [Slab(layer.kind, layer.outline + np.array(aside)) for layer in shown]
        main = max(self.sewn, key=lambda s: s.length, default=None)
        if main is not None:
            self.say("seam.count", float(main.count), f"in the longest seam, {main.name}", "count")
            self.say("seam.chord", main.chord, f"equal chords in the longest seam, {main.name}")
            self.say("seam.stack", max(s.stack for s in self.sewn), "the thickest that is sewn through")
            total = sum(s.thread for s in self.sewn)
            self.say(
                "seam.thread", total, f"{self.how.method.said}, and tails, in all seams", seams=float(len(self.sewn))
            )
            self.say("seam.time", sum(s.seconds for s in self.sewn) / 60, "a practised hand, all seams", "min")
        held = tuple(h if isinstance(h, Carried) else replace(h, past=(*h.past, *self.parting)) for h in self.held)
        return Built(
            pieces=tuple(self.pieces.values()), seams=tuple(self.sewn), reasons=dict(self.reasons),
            hardware=tuple(self.hardware), edges_first=tuple(self.first), leather=self.leather, inside=inside,
            asked=asked, crosses=tuple(crosses), tied=dict(self.tied),
            words=("leather.temper", "stitch.method", "stitch.holes", "stitch.marks", "hand", *self.words),
            claims=tuple(self.claims), joints=tuple(self.joints), shown=tuple(shown), stiff=tuple(self.stiff),
            lies=dict(self.lies), held=held,
            rounds=tuple(self.rounds), shuts=tuple(self.shuts), rings=tuple(self.rings), drawn=tuple(self.drawn),
            sling=self.sling,
        )  # fmt: skip


def _room(piece: Piece, x: float, y: float, size: Fastening, place: str) -> bool:
    """Whether a fastening keeps from an edge of its piece, its cap from thread holes, and it from other fastenings."""
    leather = shapely.Polygon(piece.cut, list(piece.openings))
    spot = shapely.Point(x, y)
    clear = all(np.hypot(h.x - x, h.y - y) >= (size.cap + h.diameter) / 2 for h in piece.holes)
    apart = all(np.hypot(f.x - x, f.y - y) >= size.apart - 1e-6 for f in piece.fittings if f.place != place)
    return bool(leather.contains(spot) and leather.boundary.distance(spot) >= size.edge - 1e-6 and clear and apart)
