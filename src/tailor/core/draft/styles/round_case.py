"""Round case: a wall that goes once round, a bottom of its own let in below, and a strip down the back over the butt.

For bottles, torches, tubes: what is as thick as it is wide. A cup so deep cannot be moulded in two; the wall only
bends. Its lower edge is turned out on the bottom and slit, where both sides of the seam are reached from outside; or
in and notched, where a hand goes in.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.roundness import is_round, reach
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.gusset import FLAT, IN, Gusset, Turned, notched, stands_clear, turned
from tailor.core.draft.flat_goods.reached import reached
from tailor.core.draft.flat_goods.slung import slung
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.style import Order, Style
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather
from tailor.core.measure import STYLE as STYLE_KEY
from tailor.core.measure import Theme
from tailor.core.placed.held import Carried
from tailor.core.placed.lies import ACROSS, OUT, UP, Bent, Frame, Swept, Upright
from tailor.core.placed.path import Path, mirrored

MEASURES = (
    measure.told("wall.round", Theme.SHAPE, "wall round", first=True),
    measure.told("wall.up", Theme.SHAPE, "wall up"),
    measure.told("strip.width", Theme.SHAPE, "back strip"),
)  # fmt: skip

HELD = habit.hand("round.held", 5 / 6, 0.5, 0.95, "of what it holds, that the wall covers", habit.SHARE)
LEAST = 0.55  # of the margin, that a hole keeps from the butt
TAB = habit.bench("round.tab", 20.0, 12, 40, "from the rim down to the rivets of its ring tabs")
STANDS = habit.hand("round.stands", 20.0, 12, 40, "of what it holds, that stands out at the least")
SERVES = (STYLE_KEY, "two-panel"), (STYLE_KEY, "gusseted-box")
TURN = np.linspace(0.0, 2 * np.pi, 361)


@dataclass(frozen=True)
class Wall:
    """The wall, flat: x down it from where its foot begins to turn, y along it from the butt.

    stitch: radius of the circle it is sewn to the bottom by; up: from where it turns to its rim, mm.
    """

    leather: Leather
    edge: Turned
    stitch: float
    up: float
    margin: float

    @property
    def neutral(self) -> float:
        """Radius of its neutral surface."""
        return self.stitch + self.edge.neutral

    @property
    def length(self) -> float:
        return 2 * np.pi * self.neutral

    @property
    def foot(self) -> float:
        """x of its lower edge."""
        return self.edge.flange + self.margin

    @cached_property
    def outline(self) -> Array:
        return np.array([(-self.up, -self.length), (self.foot, -self.length), (self.foot, 0.0), (-self.up, 0.0)])

    def lie(self) -> Swept:
        """Once round the upright axis from behind, its grain outward, its foot turned."""
        bend = self.edge.bend
        section = Path(
            ((self.up, 0.0), (bend, self.edge.out * np.pi / 2), (self.edge.flat + self.margin, 0.0)), (-self.up, 0.0),
            first=-self.up,
        )  # fmt: skip
        line = Path(((self.length, -2 * np.pi),), (-self.neutral, 0.0), np.pi / 2)
        return Swept(Frame(np.array([0.0, self.edge.taken, 0.0]), OUT, ACROSS), line, section)

    def as_gusset(self) -> Gusset:
        """As notches are asked for: a strip whose one edge turns."""
        half = self.edge.flange
        fold = np.array([(0.0, 0.0), (0.0, -self.length)])
        edge = self.sewn_round(self.margin)
        return Gusset(self.outline, edge, edge, (fold, fold), 2 * half, self.length, self.edge.neutral, Path(), 0.0)

    def sewn_round(self, first: float) -> Edge:
        """Its stitch line to the bottom, its first and its last hole so far from the butt."""
        run = paths.straight((self.edge.flange, 0.0), (self.edge.flange, -self.length))
        return Edge(run, (first, self.length - first))

    def down(self, aside: float, margin: float) -> Edge:
        """Its row beside the butt, `aside` from it, towards one end or, below nought, the other."""
        y = -aside if aside > 0 else -self.length - aside
        return paths.edge(paths.straight((-self.up, y), (0.0, y)), margin)


def draft(order: Order) -> Draft:
    """A round case for the object. Raises InputError where it is not round, or the measures cannot make one."""
    work = Work(order)
    loft, leather, thick = work.loft, work.leather, work.leather.thickness
    if refused := _unfit(loft, order.zones):
        raise InputError(refused, "object", "make it of two panels, or a gusseted box", SERVES)
    clear = work.given("fit.clearance", "room all round")
    across = 2 * float(reach(loft).max())
    wide = work.say("inside.across", across + 2 * clear, "the object and room all round", object=across, room=clear)
    asked = max(min(work.habit(HELD) * work.size[1], work.size[1] - work.habit(STANDS)), work.size[1] / 2)
    tall = work.say("inside.up", asked, "what leaves enough of it to be taken hold of", object=work.size[1])
    way = work.word("gusset.flange")
    edge, margin = turned(leather, way, work.habit(FLAT)), work.margin(2 * thick)
    # A foot that is turned in lies under what it holds, which stands clear of the turn.
    sunk = work.say("corner.sunk", stands_clear(leather.inside_radius, clear) if way == IN else 0.0,
        "the bottom lies so much lower that what stands in it clears the turn of the wall")  # fmt: skip
    floor = thick + sunk if way == IN else 0.0
    wall = Wall(leather, edge, wide / 2 - edge.wall, tall + floor - edge.taken, margin)
    if wall.stitch < 2 * margin or wall.up < 4 * margin:
        raise InputError(
            f"{wide:.0f} mm across and {tall:.0f} mm high is too small for a wall whose foot is turned",
            "inside.across and inside.up", "make it of two panels", SERVES[:1],
        )  # fmt: skip
    work.cut("bottom", paths.circle(0.0, 0.0, wide / 2 + thick if way == IN else wall.stitch + margin))
    fold = np.array([(0.0, 0.0), (0.0, -wall.length)])
    work.cut("wall", wall.outline, folds=[fold], words=(-wall.up / 2, -wall.length / 2))
    work.say("wall.round", wall.length, "round what it holds, at the leather's neutral line", inside=wide)
    work.say("wall.up", wall.up + wall.foot, "up from its turn, the turn, and its foot", inside=tall, foot=wall.foot)
    work.lie("bottom", Bent(Frame(np.array([0.0, -leather.offset, 0.0]), ACROSS, OUT)))
    work.lie("wall", wall.lie())
    _over_the_butt(work, wall)
    _let_in(work, wall)
    bears = work.settings.number("leather.stretch_across"), work.settings.number("leather.gather")
    notched(work, "wall", wall.as_gusset(), bears)
    work.finish_first("wall", "rim, while it is flat", np.array([(-wall.up, 0.0), (-wall.up, -wall.length)]))
    slung(work, "wall", *((work.habit(TAB) - wall.up, -side * wall.length) for side in (0.25, 0.75)), crosswise=True)
    if way == IN:
        work.claim("Hand reaches the bottom seam", reached(wide), tall, tall / 2,
            "A hand goes down the wall to the foot that is turned in.", "No hand reaches the foot that is turned in: "
            "turn it out.", keys=("gusset.flange",), theme=Theme.STITCH)  # fmt: skip
    work.claim("Wall bends without a crease", wall.neutral, 4 * thick, 2 * thick, "It goes round in one even curve.",
        "So tight a wall creases: take thinner leather.", keys=("leather.thickness",))  # fmt: skip
    sizes = loft.sizes(np.array([s.y for s in loft.stations]))
    middle = (sizes[:, 0].min() + (sizes[:, 0] + sizes[:, 1]).max()) / 2
    lift = (sizes[:, 2].max() - sizes[:, 3].max()) / 2
    work.held.append(Carried("what it is for", loft, (-np.inf, np.inf), at=(-middle, floor - loft.tip, -lift)))
    _upright(work, wall)
    up, round_ = wall.up, wall.length
    work.tie("wall", wall__round=(0.8 * round_, up / 2), wall__up=(0.3 * round_, 0.0), inside__up=(0.3 * round_,
        0.8 * up), gusset__flange=(0.7 * round_, -edge.flange), fit__clearance=(0.15 * round_, 0.3 * up))  # fmt: skip
    work.tie("bottom", inside__across=(0.0, 0.0), seam__margin=(0.0, -wall.stitch))
    low, inner = loft.tip - floor, wide / 2
    from_butt = np.column_stack([np.sin(TURN), -np.cos(TURN)])
    hoop = np.vstack([(inner + thick) * from_butt, inner * from_butt[::-1]])
    half = work.size[0] / 2
    thing = Slab("thing", np.array(paths.box(-half, loft.tip, half, loft.top)))
    shown = Slab("leather", np.array(paths.box(-inner - thick, low - thick, inner + thick, loft.tip + tall)))
    return work.built(
        (wide, tall, wide), (across, tall, across),
        [Cross(low, loft.tip + tall, (Slab("leather", hoop), Slab("thing", paths.circle(0.0, 0.0, across / 2))))],
        [shown, thing, shown],
    )  # fmt: skip


def _upright(work: Work, wall: Wall) -> None:
    """The wall turned as it stands, its rim above."""
    sewn = work.pieces["wall"].mapped(lambda at: np.column_stack([at[:, 1] + wall.length, -at[:, 0]]))
    words = work.cut("wall", sewn.cut, words=(wall.length / 2, wall.up / 2)).marks
    work.pieces["wall"] = replace(sewn, marks=words)
    work.lie("wall", Upright(work.lies["wall"], wall.length))


def _over_the_butt(work: Work, wall: Wall) -> None:
    """The strip over the butt, sewn down by a row on either side, which lie further apart on it than on the wall."""
    leather = work.leather_for("strap")
    out = wall.neutral + wall.leather.thickness - wall.leather.offset + leather.offset
    aside = wall.margin * out / wall.neutral
    half = work.say("strip.width", 2 * (aside + wall.margin), "its two rows, and a margin beside each",
        rows=2 * aside) / 2  # fmt: skip
    name = "back strip"
    work.cut(name, paths.closed(paths.box(-half, 0.0, half, wall.up), 2.0), thick=leather.thickness)
    frame = Frame(np.array([0.0, wall.edge.taken, -out]), -ACROSS, UP)
    work.lie(name, Bent(frame, across=mirrored([(half, -half / out)])))
    work.finish_first(name, "all round, before it is sewn on")
    for side, way in (("right", 1.0), ("left", -1.0)):
        row = paths.edge(paths.straight((-way * aside, wall.up), (-way * aside, 0.0)), wall.margin)
        work.join(f"{side} of the butt", ("wall", f"{side} row", wall.down(way * wall.margin, wall.margin)),
            (name, f"{side} row", row), margin=wall.margin)  # fmt: skip


def _let_in(work: Work, wall: Wall) -> None:
    """The bottom sewn to the wall's foot all round, half a stitch from the butt at either end, or as far from it as a
    hole wants leather beside it.
    """
    ring = Line(wall.stitch * np.column_stack([np.sin(TURN), -np.cos(TURN)]))
    first = max(work.how.pitch.value / 2, LEAST * wall.margin)
    beside = first * ring.length / wall.length
    sides = ("bottom", "round", Edge(ring, (beside, ring.length - beside))), ("wall", "foot", wall.sewn_round(first))
    work.join("bottom seam", *sides, further=(0.0, wall.edge.neutral), margin=wall.margin,
        bend=2 * np.pi * (1 - 2 * first / wall.length))  # fmt: skip


def _unfit(loft: Loft, zones: Sequence[Zone]) -> str | None:
    """Why nothing round can be made for it."""
    if of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT):
        return "it has an edge or a point, which a wall without a welt does not keep from"
    return None if is_round(loft) else "it is not round, and would lie loose in a round case"


STYLE = Style(
    "Round case", "Flat goods", draft, ("round thing",), ("from the shoulder", "in the hand", "left standing"),
    ("none",), _unfit,
)  # fmt: skip
