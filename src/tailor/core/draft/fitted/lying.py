"""Lying: where the pieces of a fitted case lie once it is made up: its panels formed, its welts between them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
import scipy
from shapely.geometry import box

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.fitted.panels import as_cut, panels
from tailor.core.draft.piece import FLIP, Role
from tailor.core.draft.worn.carry import Loop
from tailor.core.placed.held import Carried
from tailor.core.placed.lies import ACROSS, UP, Bent, Creases, Frame, Lie, Patched, Placed, each, flat_at
from tailor.core.placed.path import Path, through
from tailor.core.placed.sewn import along, twisted
from tailor.core.shell.formed import Formed

STEP = 4.0  # mm between points that a formed panel is drawn with
FAR = 1e4  # mm
STEEP = 0.5  # radians: further than a loop leans off the straight way down


def laid_out(draft: Fitted) -> Fitted:
    """The draft with the places of its panels, its welts and the object; a rough one is not put together."""
    if draft.rough:
        return draft
    case, every = draft.shell, _Panels(draft)
    flat_back, plane = case.flat_back, case.plane
    front, back = Over(every, 0, -plane), Over(every, -1, -plane)
    bend = case.leather.quarter_bend
    lies = dict[str, Lie]()
    for piece in draft.pieces:
        match piece.role:
            case Role.BODY:
                behind = box(-FAR, -FAR, 0.0, FAR)
                lies[piece.name] = Patched(((behind, replace(back, bend=bend)),), replace(front, bend=bend))
            case Role.PANEL | Role.BLANK if piece.name.startswith("front"):
                lies[piece.name] = front
            case Role.PANEL | Role.BLANK if flat_back:
                lies[piece.name] = Bent(Frame(np.array([0.0, 0.0, -plane - case.leather.offset]), -ACROSS, UP))
            case Role.PANEL | Role.BLANK:
                lies[piece.name] = back
            case Role.WELT if draft.folds:
                lies[piece.name] = Levelled(front)
            case Role.WELT:
                lies[piece.name] = flat_at(case.welt / 2 - plane if flat_back else 0.0)
            case _:
                pass
    loft = case.loft
    return replace(
        draft, lies=lies, held=(Carried("the object", loft, (loft.tip, draft.value("mouth.y")), _layers(draft, lies)),)
    )


def _layers(draft: Fitted, lies: Mapping[str, Lie]) -> tuple[tuple[str, Over, float], ...]:
    """The formed panels by the pieces they are cut from, and how far in their flesh side lies from where they are."""
    within, found = draft.shell.leather.offset, []
    for name, lie in lies.items():
        parts = [lie.rest, *(part for _, part in lie.parts)] if isinstance(lie, Patched) else [lie]
        found += [(name, part, within) for part in parts if isinstance(part, Over)]
    return tuple(found)


def over_the_belt(draft: Fitted, seams: tuple[str, str]) -> Fitted:
    """The draft with the loop out of its back laid over a belt that lies on it, and down again, where it has one.

    seams: of its two rows, the upper first.
    """
    loop, tab, leather = draft.loop, draft.tab, draft.shell.leather
    if loop is None or tab is None or not draft.lies:
        return draft
    name = "back" if draft.plan.fold is None else "body"
    under = draft.lies[name]
    piece = next(p for p in draft.pieces if p.name == name)
    own, rows = ([piece.holes_of(seam, edge) for seam in seams] for edge in ("tab", "back"))
    *placed, rooted = each(under, [*rows, np.column_stack([tab.places, np.full(len(tab.places), tab.begins)])])
    root = rooted.at.mean(axis=0)
    base = Frame(root, -ACROSS, UP)  # above the mouth it goes straight on, and leans from its fold on
    line = loop.neutral(leather.grain_inside())
    middle = [row.at[np.abs(at[:, 0] - tab.middle).argmin()] for row, at in zip(placed, own, strict=True)]
    over = through(_down_to((line - line[0])[:, ::-1] * [-1.0, 1.0], loop, root, middle), tab.begins)
    free = Bent(base, Path(first=tab.middle), over)
    region = box(-FAR, draft.top, FAR, FAR)  # above the mouth it is free, and plane
    if rows[0][:, 1].min() >= draft.top:  # it comes down on itself
        return replace(draft, lies={**draft.lies, name: Patched(((region, free),), under)})
    down = box(-FAR, tab.begins + loop.turned / 2, FAR, FAR)  # where it comes down it goes with the back
    bent = replace(free, across=_seen_inside(along(own[0][:, 0], placed[0], leather.thickness), tab.middle))
    sewn = twisted(bent, own, placed, leather.thickness)
    return replace(draft, lies={**draft.lies, name: Patched(((down, sewn), (region, free)), under)})


def _down_to(line: Array, loop: Loop, root: Array, rows: Sequence[Array]) -> Array:
    """A loop's line up and out, (n, 2), leaning so far that it comes down on the back, and then lies along it. root:
    where it begins; rows: the middles of its two rows on the back, the upper first, (3,) each.
    """
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(line, axis=0).T))])
    upper, lower = rows
    lies = float(np.arctan2(lower[2] - upper[2], upper[1] - lower[1]))
    there = float(np.interp(loop.tab_rows[1], along, line[:, 1])) + root[2] - lower[2]
    down = loop.tab_rows[0] - loop.margin

    def off(angle: float) -> float:
        leant = _leaning(line, along, angle, down, lies)
        return float(np.interp(loop.tab_rows[1], along, leant[:, 1]) - there)

    straight = float(np.arctan2(lower[2] - root[2], root[1] - lower[1]))
    low, high = straight - STEEP, straight + STEEP
    angle = float(scipy.optimize.brentq(off, low, high, xtol=1e-6)) if off(low) * off(high) < 0 else straight
    return _leaning(line, along, angle, down, lies)


def _leaning(line: Array, along: Array, angle: float, down: float, lies: float) -> Array:
    """A loop's line up and out, (n, 2), from its fold on, leaning by an angle, all of that in the first quarter of the
    fold; and by another once it is down, so far along it. Nothing is longer for it. Radians, mm.
    """
    way = np.diff(line, axis=0)
    turned = np.abs(np.unwrap(np.arctan2(way[:, 1], way[:, 0])))
    lean = np.where(along[:-1] < down, angle * np.minimum(turned / (np.pi / 2), 1.0), lies)
    c, s = np.cos(lean), np.sin(lean)
    rows = np.column_stack([c * way[:, 0] - s * way[:, 1], s * way[:, 0] + c * way[:, 1]])
    return np.vstack([line[:1], line[0] + np.cumsum(rows, axis=0)])


def _seen_inside(path: Path, middle: float) -> Path:
    """How a strap bends from side to side that comes down on leather grain inside; through its own middle line."""
    s = path.first + np.linspace(0, path.length, 65)
    at = path.at(s)
    here = path.at(np.array([middle]))[0]
    return through((at - here) * [1.0, -1.0], float(s[0]))


@dataclass(frozen=True, eq=False)
class _Panels:
    """The panels of a draft, front first, worked out where they are first asked for."""

    draft: Fitted

    @cached_property
    def all(self) -> tuple[Formed, ...]:
        return tuple(replace(panel, uv=as_cut(self.draft, panel)) for panel in panels(self.draft, rowed=True))


@dataclass(frozen=True)
class Over:
    """A panel, or its half of a folded sheet, formed over the object. of: which of the panels, 0 or -1.

    shift: what heights over the panels' own plane are moved by to the object's. bend: length of leather round a quarter
    of its fold, if it has one. It goes straight on up beyond its mouth, and down beyond its foot. mm.
    """

    panels: _Panels
    of: int
    shift: float
    bend: float = 0.0

    @property
    def panel(self) -> Formed:
        return self.panels.all[self.of]

    def __call__(self, flat: Array) -> Placed:
        panel, behind = self.panel, self.of != 0
        seen = flat * FLIP if behind else flat
        rows = panel.uv[[0, -1]]
        low, high = (np.interp(seen[:, 0], row[:, 0], row[:, 1]) for row in rows)
        within = np.column_stack([seen[:, 0], np.clip(seen[:, 1], low, np.maximum(high, low))])
        spot, _ = panel.nearest(within)
        at, out = panel.at(spot, panel.places), panel.facing(spot)
        off = within - panel.at(spot, panel.uv)  # beside the panel it goes on level
        up = UP - (out @ UP)[:, None] * out
        up /= np.maximum(np.linalg.norm(up, axis=1), 1e-9)[:, None]
        at = at + off[:, :1] * np.cross(up, out) + off[:, 1:] * up
        at = at + (seen - within)[:, 1:] * UP + np.array([0.0, 0.0, self.shift])
        turn = np.array([1.0, 1.0, -1.0 if behind else 1.0])
        return Placed(at * turn, out * turn)

    def places(self) -> Array:
        """Where its leather is known to lie, (n, 3): the corners of the panel's grid."""
        turn = np.array([1.0, 1.0, -1.0 if self.of != 0 else 1.0])
        return np.asarray((self.panel.places.reshape(-1, 3) + np.array([0.0, 0.0, self.shift])) * turn)

    def creases(self) -> Creases:
        across = np.array([0.0, self.bend * (-1 if self.of else 1)]) if self.bend else np.empty(0)
        return Creases(across, np.empty(0), STEP)


@dataclass(frozen=True)
class Levelled:
    """A welt that lies plane under a panel, in the middle of the case, drawn as it lies flat under it."""

    under: Over

    def __call__(self, flat: Array) -> Placed:
        at = self.under(flat).at * [1.0, 1.0, 0.0]
        return Placed(np.asarray(at), np.broadcast_to([0.0, 0.0, 1.0], at.shape).copy())

    def creases(self) -> Creases:
        return Creases(np.empty(0), np.empty(0))
