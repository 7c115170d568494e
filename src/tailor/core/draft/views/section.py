"""A cut straight through object and leather at one height, every layer at its real thickness."""

from __future__ import annotations

from dataclasses import dataclass
from functools import singledispatch

import numpy as np
import shapely
from shapely.geometry import LineString, Polygon

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.flat_goods.built import Built, Cross
from tailor.core.leather.leather import Leather
from tailor.core.leather.moulding import EVERYWHERE
from tailor.core.reason import Reason
from tailor.core.shell.two_sided import Halves, TwoSided

UNSEEN = 0.003  # mm a line may be off in a slice, which is looked at


@dataclass(frozen=True)
class Section:
    """The slice at y. Closed outlines are (n, 2) in x and z, mm; z is up towards the front.

    thing: the object, or None past the tip. room: the object with its clearance. front, back: the leather, or
    None above the mouth. welts: each layer from the front. stitches: (2, 2) each, the thread through the stack.
    neutral: the front's unstretched surface. front_path, back_path: flat lengths from the fold, or from one seam,
    to the stitch. reason: why the standoff is what it is. two_sided: there is a seam on either side.
    """

    y: float
    thing: Array | None
    room: Array | None
    front: Array | None
    back: Array | None
    welts: tuple[Array, ...]
    stitches: tuple[Array, ...]
    neutral: Array | None
    front_path: float
    back_path: float
    reason: Reason | None
    two_sided: bool = False

    @property
    def stitch(self) -> Array | None:
        """The thread on the seam side."""
        return self.stitches[0] if self.stitches else None


@singledispatch
def cut_through(made: Draft, y: float) -> Section | Cross:
    """A draft cut through at height y, mm: object and leather round it, or the panels that it is built of."""
    raise NotImplementedError


@cut_through.register
def _(made: Fitted, y: float) -> Section:
    return section(made, y, made.shell.clearance)


@cut_through.register
def _(made: Built, y: float) -> Cross:
    return made.cross(y)


def section(draft: Fitted, y: float, clearance: float) -> Section:
    """The slice through a draft at height y, mm; clamped between the toe and the top of the object."""
    panel = draft.shell
    y = float(np.clip(y, panel.loft.tip - 0.98 * panel.toe, panel.loft.top))
    sections = panel.loft.sections(np.array([y]), panel.toe)  # past the tip a folded panel goes over a cone
    thing = sections.outline(0) if y >= panel.loft.tip else None
    room = None
    if thing is not None and clearance > 0:
        room = np.asarray(Polygon(thing).simplify(UNSEEN).buffer(clearance).exterior.coords)
    if y > draft.value("mouth.y"):
        return Section(y, thing, None, None, None, (), (), None, 0.0, 0.0, None)
    if isinstance(panel, TwoSided):
        return _two_sided(draft, panel, y, thing, room)
    x_welt = panel.welt_edge(np.array([y]))
    flesh, grain, middle = (each.wrap(np.array([y])) for each in (*panel.skins, panel))
    x_stitch = max(_edge_at(draft.plan.stitch, y), float(x_welt[0]))
    x_cut = max(_edge_at(draft.plan.cut, y), x_stitch + 0.5)
    sides = []
    for name, up in (("front", 1.0), ("back", -1.0)):
        ring = np.vstack([flesh.side(name).points(0, x_cut), grain.side(name).points(0, x_cut)[::-1]])
        sides.append(ring * np.array([1.0, up]))
    layers = round(draft.value("welt.layers"))
    thick, top = draft.value("welt.thickness"), panel.welt / 2
    welts = tuple(
        np.array([(x_welt[0], top - k * thick), (x_cut, top - k * thick), (x_cut, top - (k + 1) * thick),
                  (x_welt[0], top - (k + 1) * thick)])
        for k in range(layers)
    )  # fmt: skip
    half = draft.stack.height / 2
    lengths = [float(middle.side(side).length_to(np.array([x_stitch]))[0]) for side in ("front", "back")]
    return Section(
        y, thing, room, sides[0], sides[1], welts,
        (np.array([(x_stitch, half), (x_stitch, -half)]),), middle.front.points(0, x_stitch), lengths[0], lengths[1],
        draft.standoff.reason_at(int(np.abs(draft.standoff.rows - y).argmin())),
    )  # fmt: skip


def _two_sided(draft: Fitted, case: TwoSided, y: float, thing: Array | None, room: Array | None) -> Section:
    """The slice through leather that is sewn on both sides; heights over the object's middle plane."""
    inset, row = draft.value("seam.stitch_inset"), np.array([y])
    right, left = (float(x[0]) for x in case.edges(row))
    stitch = right + inset, left - inset
    mirror = np.array([-1.0, 1.0])
    cut = max(_edge_at(draft.plan.cut, y), stitch[0] + 0.5), -max(_edge_at(draft.plan.cut * mirror, y), 0.5 - stitch[1])
    down = case.plane

    pressed = case.moulding.where == EVERYWHERE and not case.moulding.taut
    faces = {s: case.near(s, y) if pressed else case.face(s, row) for s in case.sides[: 1 + (not case.alike)]}

    def line(side: str, of: Halves | None = None) -> Array:
        face = of or faces.get(side, faces["front"])
        half = face.left.points(0, -cut[1])[::-1] * mirror
        return np.vstack([half[:-1], face.right.points(0, cut[0])])

    def skin(side: str) -> Array:
        """The leather of one side, closed: pressed leather is as thick as it is square to its neutral line."""
        if not case.moulding.taut:
            return band(line(side), case.leather)
        flesh, grain = (line(side, each.face(side, row)) for each in case.skins)
        return np.vstack([flesh, grain[::-1]])

    turned = np.array([1.0, -1.0])
    front = skin("front") - [0.0, down]
    thick = case.leather.thickness
    if case.flat_back:
        back = np.array([(cut[1], -down), (cut[0], -down), (cut[0], -down - thick), (cut[1], -down - thick)])
    else:
        back = front * turned if case.alike else skin("back") * turned
    layer, count, top = draft.value("welt.thickness"), round(draft.value("welt.layers")), case.floor - down
    welts = tuple(
        np.array([(a, top - k * layer), (b, top - k * layer), (b, top - (k + 1) * layer), (a, top - (k + 1) * layer)])
        for a, b in ((right, cut[0]), (cut[1], left)) for k in range(count)
    )  # fmt: skip
    high, low = top + thick, top - case.welt - thick
    lengths = []
    for side in ("front", "back"):
        if side == "back" and case.flat_back:
            lengths.append(stitch[0] - stitch[1])
            continue
        face = faces.get(side, faces["front"])
        both = face.right.length_to(np.array([stitch[0]])) + face.left.length_to(np.array([-stitch[1]]))
        lengths.append(float(both[0]))
    at = int(np.abs(draft.standoff.rows - y).argmin())
    told = max((s.reason_at(at) for s in draft.standoffs), key=lambda r: r.value)
    return Section(
        y, thing, room, front, back, welts, tuple(np.array([(x, high), (x, low)]) for x in stitch),
        line("front") - [0.0, down], lengths[0], lengths[1], told, True,
    )  # fmt: skip


def band(neutral: Array, leather: Leather) -> Array:
    """Leather about its neutral line (n, 2), as thick as it is square to it, closed; its inside on the right."""
    middle = LineString(neutral).simplify(UNSEEN)
    beyond = leather.thickness - leather.offset
    halves = [middle.buffer(out, single_sided=True) for out in (beyond, -leather.offset) if out]
    whole = max(shapely.get_parts(shapely.union_all(halves)), key=lambda part: part.area)
    return np.asarray(whole.exterior.coords)[:-1]


def _edge_at(curve: Array, y: float) -> float:
    """x of a curve (n, 2) where it is furthest out at height y."""
    level = shapely.LineString([(-1e4, y), (1e4, y)]).intersection(shapely.LineString(curve))
    return float(level.bounds[2]) if not level.is_empty else float("-inf")
