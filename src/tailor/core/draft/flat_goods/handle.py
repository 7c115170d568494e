"""Handle: a folded strap, or one wrapped round a cord, riveted on by its two ends."""

from __future__ import annotations

import numpy as np

from tailor.core import habit, measure
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Rule
from tailor.core.draft.worn.straps import folded, wrapped_round
from tailor.core.draft.worn.strips import Strip
from tailor.core.errors import InputError
from tailor.core.measure import Theme
from tailor.core.placed.lies import Bent, Frame, upon
from tailor.core.placed.path import Path, arched, looped

MEASURES = (
    measure.pick("handle.kind", Theme.STRAP, "handle", "a handle over the top: a folded strap, or wrapped", "none",
        ("none", "strap", "wrapped"), first=True),
    measure.length("handle.reach", Theme.STRAP, "handle length", "length of the handle between its ends", 40, 800),
)  # fmt: skip

WIDE = habit.hand("handle.width", 22.0, 15, 40, "width of a handle")
CORE = habit.hand("handle.core", 10.0, 6, 16, "cord inside a wrapped handle")
END = 34.0  # mm at either end, flat, for two rivets
FIRST, SECOND = 9.0, 25.0  # mm from an end to its rivets
CLAMPED = 5.0  # mm beyond a rivet, that its cap holds down
RIVET = "rapid rivet 9"
BESIDE = 2.0  # mm from an end to the edge of what it is riveted to
LEAST = 20.0  # mm between the inner rivets, over which it stands up
HAND = habit.hand("handle.hand", 130.0, 90, 160, "within a handle, below which no hand goes through")


def handle(work: Work, on: str, at: tuple[float, float], span: float, room: float, name: str = "handle") -> None:
    """A handle across a piece about a place on it, if one is asked for. span: between its inner rivets there, or less
    where the piece is narrower or the handle shorter; room: from there to where the piece ends on either side, mm.
    Raises InputError where there is no room for both its ends.
    """
    hand = work.habit(HAND)
    kind = work.word("handle.kind")
    if kind == "none":
        return
    span = min(span, 2 * (room - SECOND - BESIDE))
    if span < LEAST:
        raise InputError(
            f"the {on} has no room for both ends of a handle, which take {2 * (SECOND + BESIDE) + LEAST:.0f} mm there",
            "handle.kind", "set it to none, or carry it by a strap",
        )  # fmt: skip
    reach = work.say("handle.reach", max(hand, 1.2 * span), "a hand goes through", span=span)
    span = min(span, reach)
    length, leather = reach + 2 * END, work.leather_for("strap")
    thick = leather.thickness
    if kind == "strap":
        strap = folded(leather, work.habit(WIDE), 2)
        half = strap.width / 2
        work.pieces[name] = Strip(half, 0.0, length).piece(name, thick, at=length / 2)
        gullies = [np.array([(x - half, 0.0), (x - half, length)]) for x in strap.gullies.ravel()]
        work.mark(name, *(Rule("skive", line) for line in gullies))
        across: tuple[float, ...] = half / 2, -half / 2  # through both its layers, which lie on one another there
    else:
        half = wrapped_round(leather, work.habit(CORE)) / 2
        said = " · wrap on cord, ends flat"
        work.pieces[name] = Strip(half, 0.0, length).piece(name, thick, at=length / 2, said=said)
        across = (0.0,)
    under = work.lies.get(on)
    if under is not None:
        lift = (thick + work.pieces[on].thickness) / 2
        base = upon(under, at, lift, turned=True)
        work.lie(name, _arched(base, span, half, reach, thick if len(across) > 1 else None))
    spots = ((SECOND, -span / 2), (FIRST, -span / 2 - SECOND + FIRST))
    for k, (v, out) in enumerate((*spots, *((length - v, -out) for v, out in spots)), 1):
        layers = [(name, (x, v)) for x in across]
        work.fit(RIVET, f"{name}, rivet {k}", "handle.kind", *layers, (on, (at[0] + out, at[1])))
    work.claim(
        "A hand goes through", reach, hand - 20.0, 80.0, "A gloved hand goes through.", "Make the handle longer.",
        keys=("handle.reach",), theme=Theme.BELT,
    )  # fmt: skip


def _arched(base: Frame, span: float, half: float, reach: float, doubled_: float | None) -> Bent:
    """A handle: its ends flat on what it is riveted to, an arch between. doubled_: how thick its legs are that lie one
    on another; None where it is not folded lengthwise.
    """
    flat = SECOND + CLAMPED
    arch, up = arched(span - 2 * CLAMPED, reach + 2 * (END - flat))
    ends = span / 2 + SECOND
    kinks = (0.0, up, *(0.0,) * (len(arch) - 1), up)
    along = Path(((flat, 0.0), *arch, (flat, 0.0)), (-ends, 0.0), kinks=kinks)
    if doubled_ is None:
        return Bent(base, up=along)
    return Bent(base, across=looped(half, half / 2, doubled_), up=along)
