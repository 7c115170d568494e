"""Attached: pockets, loops, straps and the like sewn on any piece of a draft, one after another, while it lies flat."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, TypeVar

import numpy as np
import shapely

from tailor.core import measure
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Hardware
from tailor.core.draft.flat_goods.gusset import slit
from tailor.core.draft.flat_goods.reached import reached
from tailor.core.draft.parts.additions import MAKES, tool_rows
from tailor.core.draft.parts.pockets import NONE, deepest, fullest
from tailor.core.draft.parts.room import BESIDE, room_on
from tailor.core.draft.parts.wanted import SEAT, Addition, Sewing, Wanted
from tailor.core.draft.piece import Finish, Piece, Seam, punched
from tailor.core.draft.stitch.holes import Edge, HoleLine, joined, straight_row
from tailor.core.draft.stitch.sewn import Stitching, even_stack, sewn, stitching_of
from tailor.core.draft.stuff import leather_for, leather_of
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Stack
from tailor.core.measure import Measure, Theme
from tailor.core.placed.held import Carried
from tailor.core.placed.lies import Laid, Lie, Seated
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

PATCHES = ("patch", "patch2", "patch3")  # what is sewn on pieces while they lie flat, one after another
ORDINALS = dict(zip(PATCHES, ("", "2nd: ", "3rd: "), strict=True))
STANDING = "puckered pocket", "bellows pocket", "gusseted pocket"
POCKETS = ("pocket", *STANDING)
SEWN_ON = ("pocket", "puckered pocket", "bellows pocket", "gusseted pocket", "moulded pocket", "loop", "strap",
           "ring tab", "reinforcement")  # fmt: skip


def _next(slot: str) -> measure.Applies:
    """Whether a thing may be sewn on: it is, or all before it are."""
    upto = PATCHES[: PATCHES.index(slot)]

    def applies(job: Any, made: Any) -> bool:
        word = job.settings.word
        return word(f"{slot}.on") != NONE or all(word(f"{other}.on") != NONE for other in upto)

    return applies


def _only(slot: str, *kinds: str) -> measure.Applies:
    """Whether what is sewn on is of one of some kinds."""
    return lambda job, made: job.settings.word(f"{slot}.kind") in kinds


def _patched(slot: str) -> tuple[Measure, ...]:
    """The measures of one thing that is sewn on a piece."""
    theme, nth = Theme.SEWN_ON, ORDINALS[slot]
    kept = _only(slot, *POCKETS, "strap", "reinforcement")
    high = _only(slot, *POCKETS, "moulded pocket", "loop", "strap", "reinforcement")
    return (
        measure.named(f"{slot}.on", theme, f"{nth}added to", "the piece that a pocket or the like is sewn on", NONE,
            first=True, applies=_next(slot)),
        measure.pick(f"{slot}.kind", theme, f"{nth}what is added", "what is sewn on", "pocket", SEWN_ON, first=True),
        measure.length(f"{slot}.width", theme, f"{nth}its width", "width of what is sewn on", 8, 600, first=True,
            applies=kept),
        measure.length(f"{slot}.height", theme, f"{nth}its height", "height of what is sewn on", 8, 1500, first=True,
            applies=high),
        measure.pick(f"{slot}.flap", theme, f"{nth}its flap", "a flap over a pocket: plain, or closed with a button",
            NONE, (NONE, "plain"), stock=("snap", "stud"), applies=_only(slot, *POCKETS)),
        measure.ratio(f"{slot}.fullness", theme, f"{nth}its fullness",
            "share by which a puckered pocket is wider at its top", 0.02, 1,
            applies=_only(slot, "puckered pocket")),
        measure.length(f"{slot}.pleat", theme, f"{nth}its pleat", "depth of a bellows pocket's pleats at its brim",
            3, 80, applies=_only(slot, "bellows pocket")),
        measure.length(f"{slot}.depth", theme, f"{nth}its depth", "room in a gusseted pocket, through its depth", 5,
            150, usual=20.0, applies=_only(slot, "gusseted pocket")),
        measure.length(f"{slot}.tool", theme, f"{nth}its tool",
            "thickness of the small tool in a moulded pocket or a loop", 2, 80, usual=12.0,
            applies=_only(slot, "moulded pocket", "loop")),
        measure.pick(f"{slot}.ring", theme, f"{nth}its ring", "the ring in a tab", "d-ring 20", (), stock=("ring",),
            applies=_only(slot, "ring tab")),
        measure.length(f"{slot}.across", theme, f"{nth}moved across", "how far it is moved across its piece", -500, 500,
            usual=0.0),
        measure.length(f"{slot}.up", theme, f"{nth}moved up", "how far it is moved up its piece", -500, 500, usual=0.0),
    )  # fmt: skip


MEASURES = tuple(each for slot in PATCHES for each in _patched(slot))

PARTS = {  # of whose leather each kind is cut; else of the body's
    **dict.fromkeys((*POCKETS, "moulded pocket"), "pocket"),
    **dict.fromkeys(("loop", "strap", "ring tab"), "strap"),
}
LEAST = 8.0  # mm between the stitches on either side
WIDE, HIGH = 0.8, 0.7  # of the room on the piece
OPENS = {  # how far a pocket opens: its measure, usual value, unit, and the most there may be
    "puckered pocket": ("fullness", 0.25, "", fullest), "bellows pocket": ("pleat", 12.0, "mm", deepest),
}  # fmt: skip
USUAL = {"strap": (20.0, 220.0), "loop": (0.0, 22.0), "ring tab": (0.0, 0.0)}  # mm wide and high, where not by room

Made = TypeVar("Made", bound=Draft)


def attached(settings: Settings, draft: Made) -> Made:
    """The draft with all that is sewn on its pieces. Raises InputError where there is no such piece, or no room."""
    for slot in PATCHES:
        if settings.word(f"{slot}.on") != NONE:
            part = PARTS.get(settings.word(f"{slot}.kind"))
            leather, cut_of = (leather_of(settings), None) if part is None else leather_for(settings, part)
            draft = _Slot(slot, settings, leather).sewn_on(draft)
            if cut_of is not None:
                draft = replace(draft, reasons={**draft.reasons, cut_of.name: cut_of})
    return draft


@dataclass(frozen=True)
class _Slot:
    """One thing to be sewn on, as its settings ask. leather: that it is cut from."""

    slot: str
    settings: Settings
    leather: Leather

    def sewn_on(self, draft: Made) -> Made:
        able = [p for p in draft.pieces if p.leather == "body" and not p.name.startswith("strip")]
        asked, kind = self.settings.word(f"{self.slot}.on"), self.settings.word(f"{self.slot}.kind")
        on = next((p for p in able if p.name == asked), None)
        if on is None:
            raise InputError(
                f"there is no piece called '{asked}' to sew it on", f"{self.slot}.on",
                f"give {' or '.join(p.name for p in able)}",
            )  # fmt: skip
        how = stitching_of(self.settings, leather_of(self.settings), ends=2)
        room = room_on(on, draft, kind in STANDING)
        margin = Stack((Layer("its own", self.leather.thickness), Layer("under it", on.thickness))).margin()
        wanted, why = self._wanted(_unused(kind, draft), kind, how, room, margin)
        if kind not in USUAL and min(wanted.wide, wanted.tall) < 2 * wanted.margin + LEAST:
            raise InputError(
                f"{wanted.wide:.0f} by {wanted.tall:.0f} mm on the {on.name} is too little for a {kind}",
                f"{self.slot}.on", "take another piece, or give it a width and a height",
            )  # fmt: skip
        made = MAKES[kind](wanted)
        x = (room[0] + room[2]) / 2 + self._number("across")
        y = (room[1] + room[3]) / 2 - (made.high + made.low) / 2 + self._number("up")
        self._fits(on, made, x, y, wanted.margin)
        pieces, seams = _sew(made, on, np.array([x, y]), how, wanted.margin)
        if made.turned is not None:
            name, strip = made.turned
            slits, most = slit(pieces[name], made.lies[name], strip, wanted.bears)
            pieces[name] = replace(pieces[name], rules=(*pieces[name].rules, *slits))
            why = (*why, stated(f"{self.slot}.edges", most, "", "share of what its leather bears that its edges are "
                f"asked for round its corners, with {len(slits)} slits between the stitches"))  # fmt: skip
        whole = {**{p.name: p for p in draft.pieces}, **pieces}
        hardware = self._buttons(whole, made)
        if made.fullness is not None:
            why = (*why, stated(f"{self.slot}.taken", made.fullness, "", "its toe goes round the tool's end, and is so "
                "much longer than what it is sewn to"))  # fmt: skip
        lies = _lies(made, draft.lies.get(on.name), on, (x, y))
        held = tuple(  # what goes past a piece goes past what is sewn on it
            replace(each, past=(*each.past, *lies)) if not isinstance(each, Carried) and on.name in each.past else each
            for each in draft.held
        )  # fmt: skip
        return replace(
            draft, pieces=tuple(whole.values()), seams=(*draft.seams, *seams), lies={**draft.lies, **lies}, held=held,
            shuts=(*draft.shuts, *made.shuts),
            reasons={**draft.reasons, **{r.name: r for r in why}}, hardware=(*draft.hardware, *hardware),
            edges_first=(*draft.edges_first, Finish(wanted.name, f"{made.first}, before it is sewn on")),
            added={**draft.added, self.slot: wanted.name},
        )  # fmt: skip

    def _number(self, last: str) -> float:
        return self.settings.number(f"{self.slot}.{last}")

    def _wanted(
        self, name: str, kind: str, how: Stitching, room: tuple[float, float, float, float], margin: float
    ) -> tuple[Wanted, tuple[Reason, ...]]:  # fmt: skip
        """What is asked for, and why it is so large."""
        left, low, right, high = room
        usual, rule = USUAL.get(kind, (0.0, 0.0)), "usual for one"
        wide = stated(f"{self.slot}.width", usual[0], "mm", rule)
        tall = stated(f"{self.slot}.height", usual[1], "mm", rule)
        if kind not in USUAL:
            rule = "most of the room there is"
            wide = stated(wide.name, WIDE * (right - left), "mm", rule, room=right - left)
            tall = stated(tall.name, HIGH * (high - low), "mm", rule, room=high - low)
        wide = self.settings.settled(wide)
        reach = reached(wide.value - 2 * margin) + margin
        if kind in POCKETS and tall.value > reach:
            tall = stated(tall.name, reach, "mm", "no deeper than the fingers reach", width=wide.value)
        tall = self.settings.settled(tall)
        bears = self.settings.number("leather.stretch_across"), self.settings.number("leather.gather")
        wanted = Wanted(
            name, wide.value, tall.value, margin, self.leather, how.pitch.value, how.hole.value, self._number,
            lambda last: self.settings.word(f"{self.slot}.{last}"), self.settings.maker, bears,
        )  # fmt: skip
        if kind in ("moulded pocket", "loop"):
            flat, over = tool_rows(wanted, kind)
            wide = stated(wide.name, flat + 2 * margin, "mm", "between its rows, so that the leather bows over",
                over=over, flat=flat)  # fmt: skip
        if kind == "ring tab":
            inside = self.settings.trimming(f"{self.slot}.ring").inside
            return wanted, (stated(wide.name, inside - 1.0, "mm", "as wide as its ring takes", ring=inside),)
        if kind in OPENS:
            last, common, unit, most = OPENS[kind]
            rule = "usual for one" if common < most(wanted) else "as much as its sides can lean"
            opens = self.settings.settled(stated(f"{self.slot}.{last}", min(common, most(wanted)), unit, rule))
            number = {last: opens.value}
            return replace(wanted, number=lambda of: number.get(of) or self._number(of)), (wide, tall, opens)
        return wanted, (wide, tall)

    def _fits(self, on: Piece, made: Addition, x: float, y: float, margin: float) -> None:
        leather = shapely.Polygon(on.cut, list(on.openings))
        spot = shapely.box(x - made.half, y + made.low, x + made.half, y + made.high)
        seams = shapely.points(np.array([(h.x, h.y) for h in on.holes]).reshape(-1, 2))
        clash = bool(len(on.holes) and (shapely.distance(seams, spot.buffer(-margin).exterior) < BESIDE / 2).any())
        if not leather.contains(spot) or clash:
            raise InputError(
                f"{2 * made.half:.0f} by {made.high - made.low:.0f} mm do not lie clear on the {on.name} there",
                f"{self.slot}.width",
                f"make it smaller, move it ({self.slot}.across, {self.slot}.up), or take another piece",
            )  # fmt: skip

    def _buttons(self, pieces: dict[str, Piece], made: Addition) -> list[Hardware]:
        """Fastenings put on their pieces; and rings, which nothing is punched for."""
        told = []
        for button in made.buttons:
            of, size = replace(button.fitting, place=button.place), self.settings.fastening(f"{self.slot}.flap")
            piece = pieces[button.piece]
            apart = shapely.Polygon(piece.cut).exterior.distance(shapely.Point(of.x, of.y))
            pieces[button.piece] = replace(piece, fittings=(*piece.fittings, of))
            told.append(Hardware(
                of.name, button.place, of.y, piece.thickness, size.post(piece.thickness),
                apart >= size.edge - 1e-6, 0.0, f"{self.slot}.flap",
            ))  # fmt: skip
        told += [Hardware(r, made.pieces[0].name, 0.0, 0.0, None, True, 0.0, f"{self.slot}.ring") for r in made.rings]
        return told


def _lies(made: Addition, under: Lie | None, on: Piece, at: tuple[float, float]) -> dict[str, Lie]:
    """Where it lies once its seat does."""
    if under is None:
        return {}
    skin = on.thickness / 2  # from the seat's middle layer to its grain side
    level = {name: Laid(under, skin + lift, at) for name, lift in made.plane.items()}
    return {**level, **{name: Seated(under, lie, (at[0], at[1]), skin) for name, lie in made.lies.items()}}


def _unused(kind: str, draft: Draft) -> str:
    """A name for one more of a kind, that no piece has yet."""
    taken = {p.name for p in draft.pieces}
    return next(n for n in (kind, *(f"{kind} {k}" for k in range(2, len(taken) + 3))) if n not in taken)


def _moved(edge: Edge, by: Array) -> Edge:
    return Edge(Line(edge.line.points + by), edge.anchors)


def _sew(made: Addition, on: Piece, at: Array, how: Stitching, margin: float) -> tuple[dict[str, Piece], list[Seam]]:
    """The new pieces and the one they are sewn on, all pierced, and the seams between them."""
    pieces = {on.name: on, **{p.name: p for p in made.pieces}}
    seams = []
    for sewing in made.sewings:
        edges = [_moved(edge, at) if name == SEAT else edge for name, _, edge in sewing.sides]
        lines = joined(edges, how.pitch.value, how.odd)
        for (name, label, _), line in zip(sewing.sides, lines, strict=True):
            pieces[name or on.name] = _pierced(pieces[name or on.name], sewing.seam, label, line, how.hole.value)
        seams.append(_seam(sewing, pieces, on, lines[0], how, margin))
    for row in made.rows:
        line = straight_row(row.points[:, 0])
        seat = HoleLine(line.at, row.points + at, line.chord)
        pieces[on.name] = _pierced(pieces[on.name], row.seam, f"under the {row.piece}", seat, how.hole.value)
        layers = Stack(tuple(Layer(n, pieces[n].thickness) for n in (*[row.piece] * len(row.edges), on.name)))
        edges_ = (*row.edges, f"under the {row.piece}")
        seams.append(sewn(row.seam, (row.piece, on.name), edges_, line, even_stack(layers, line), how, margin))
    return pieces, seams


def _seam(
    sewing: Sewing, pieces: dict[str, Piece], on: Piece, line: HoleLine, how: Stitching, margin: float
) -> Seam:  # fmt: skip
    names = tuple(name or on.name for name, _, _ in sewing.sides)
    stack = Stack(tuple(Layer(name, pieces[name].thickness) for name in names))
    labels = tuple(label for _, label, _ in sewing.sides)
    return sewn(sewing.seam, names, labels, line, even_stack(stack, line), how, margin, how.wrapped)


def _pierced(piece: Piece, seam: str, label: str, line: HoleLine, hole: float) -> Piece:
    return replace(
        piece, holes=(*piece.holes, *punched(seam, label, line.points, hole)), stitch=(*piece.stitch, line.points)
    )
