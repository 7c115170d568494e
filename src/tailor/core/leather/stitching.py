"""Stitching: the schools of stitch and of hole, and what each of them takes in thread, holes and time.

Lengths follow the thread on its way: `hole` is how deep a hole goes through the stack, `chord` the way to the next,
`margin` the way from a hole over the open edge beside it. Source: craft, "Numbers" and "Schools".
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from tailor.core import habit, measure
from tailor.core.carried.loft import Array
from tailor.core.leather.machine import BEDS
from tailor.core.measure import Theme

TAIL = 150.0  # mm of thread left at each end to hold and tie off
WHIPS = 2  # whip stitches over each end of a running stitch
OVER = habit.eye("stitch.over", 8.0, 5, 14, "the thread, the widest spacing that looks full", habit.TIMES)
UNDER = habit.stuff("stitch.under", 3.5, 2, 5, "the thread, the closest spacing that leaves leather", habit.TIMES)

Way = Callable[[Array, float, float], float]


def _through_twice(holes: Array, chord: float, margin: float) -> float:
    """Two threads that both cross the stack at every hole and run every stitch, begun from the middle of one."""
    return float(holes[0] + 2 * (holes[1:] + chord).sum())


def _locked(holes: Array, chord: float, margin: float) -> float:
    """Two threads that meet in the middle of the stack: each goes half way in and out again, and runs every stitch."""
    return float(2 * holes.sum() + 2 * chord * (len(holes) - 1))


def _there_and_back(holes: Array, chord: float, margin: float) -> float:
    """One thread in and out to the end and back again in the gaps, whipped over both ends."""
    run = 2 * (holes.sum() + chord * (len(holes) - 1))
    return float(run + WHIPS * sum(2 * end + 2 * margin for end in (holes[0], holes[-1])))


def _round_the_edge(holes: Array, chord: float, margin: float) -> float:
    """One thread round and round the edge: through, straight out, over the edge, and aslant to the next hole."""
    inner = holes[1:]
    return float(holes[0] + (2 * inner + margin + np.hypot(margin, chord)).sum())


def _crossed(holes: Array, chord: float, margin: float) -> float:
    """Two threads over edges side by side: up through a hole, across to the gap, down, and under to the next."""
    across = np.hypot(margin, chord / 2)
    return float(2 * holes[0] + 2 * (2 * holes[1:] + 2 * across).sum())


@dataclass(frozen=True)
class Method:
    """A school of stitch.

    length: thread from hole depths (n,), chord and margin, mm, without tails and back-stitches. tails: ends to tie
    off. again: thread of one back-stitch, as a share of an ordinary stitch. seconds: for one stitch, by a practised
    hand. odd: it comes into step only over an odd number of holes. side_by_side: its edges lie side by side, not one
    on the other. machine: it needs room under a machine's arm.
    """

    name: str
    said: str
    length: Way
    tails: int
    seconds: int
    odd: bool = False
    side_by_side: bool = False
    machine: bool = False


METHODS: Mapping[str, Method] = MappingProxyType({
    method.name: method
    for method in (
        Method("saddle", "both threads cross the stack and run the spacing", _through_twice, 2, 14),
        Method("awl", "needle thread and held thread lock in the middle of the stack", _locked, 4, 8),
        Method("machine", "top thread and bobbin lock in the middle of the stack", _locked, 4, 1, machine=True),
        Method("running", "one thread in and out, there and back, whipped over both ends", _there_and_back, 2, 10,
               odd=True),
        Method("whip", "one thread round and round the edge", _round_the_edge, 2, 9),
        Method("lacing", "one lace round and round the edge", _round_the_edge, 2, 12),
        Method("baseball", "two threads cross between edges laid side by side", _crossed, 4, 15, side_by_side=True),
    )
})  # fmt: skip


@dataclass(frozen=True)
class Making:
    """A school of hole.

    said: how it is made. wide: the hole in thicknesses of thread. wander: how far off straight it goes, degrees.
    all_at_once: it goes through the whole stack, so the back follows the front; else each piece is holed by itself.
    """

    name: str
    said: str
    wide: float
    wander: float
    all_at_once: bool = True


MAKINGS: Mapping[str, Making] = MappingProxyType({
    making.name: making
    for making in (
        Making("awl", "a diamond awl, held square by hand", 1.6, 4.0),
        Making("iron", "a pricking iron, struck through", 1.5, 2.0),
        Making("chisel", "a thonging chisel, struck through each piece", 2.2, 0.0, all_at_once=False),
        Making("punched", "a punch, each piece by itself", 1.8, 0.0, all_at_once=False),
        Making("drill", "a drill in a stand", 1.3, 0.5),
        Making("needle", "the needle of a lock awl or a machine", 1.4, 1.5),
    )
})  # fmt: skip


def thread_for(chord: float) -> float:
    """Thread that suits a spacing, mm: about a fifth of it, 0.6 mm for stitches of 3 mm and 0.8 for 4."""
    return round(chord / 5, 2)


def thread_length(method: Method, holes: Array, chord: float, margin: float, back: float, wrapped: int) -> float:
    """Thread for a whole seam, mm, tails and all.

    holes: (n,) how deep each is. back: back-stitches at the end, each as long again as a stitch; wrapped: how many open
    ends a stitch wraps over.
    """
    own = method.length(holes, chord, margin)
    one = own / (len(holes) - 1)
    ends = [holes[0], holes[-1]][:wrapped]
    return float(own + back * one + sum(2 * margin + 2 * end for end in ends) + method.tails * TAIL)


MEASURES = (
    measure.pick("stitch.method", Theme.STITCH, "stitch", "the school of stitch", "saddle", tuple(METHODS), first=True),
    measure.pick("stitch.holes", Theme.STITCH, "holed with", "what the holes are made with", "awl", tuple(MAKINGS)),
    measure.pick("stitch.marks", Theme.STITCH, "holes marked",
        "holes on every piece, or on the front only, to pierce through", "all", ("all", "front")),
    measure.length("stitch.thread", Theme.STITCH, "thread size", "thickness of the thread, or width of the lace", 0.2,
        4, first=True),
    measure.pick("stitch.count", Theme.STITCH, "holes odd", "whether the holes must be odd in number", "any",
        ("any", "odd")),
    measure.ratio("stitch.back", Theme.STITCH, "back-stitches",
        "back-stitches at the end: 2 is usual, 1.5 gives matching ends", 0, 8, usual=2.0),
    measure.pick("stitch.wrap", Theme.STITCH, "wrap the end", "whether a stitch wraps over each open end", "yes",
        ("yes", "no")),
    measure.pick("stitch.bed", Theme.STITCH, "machine", "the sewing machine, where one is used", "flat bed",
        tuple(BEDS)),
    measure.told("seam.thread", Theme.STITCH, "thread", first=True, said=measure.metres),
    measure.told("seam.count", Theme.STITCH, "holes", first=True, said=measure.whole),
    measure.told("seam.time", Theme.STITCH, "sewing", said=measure.minutes),
)  # fmt: skip
