"""Sewn: how a seam is stitched and holed, the thread and the time it takes, and why."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from tailor.core.draft.piece import Piece, Seam
from tailor.core.draft.stitch.holes import HoleLine
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Profile, Stack, thread_rule
from tailor.core.leather.stitching import MAKINGS, METHODS, Making, Method, thread_for, thread_length
from tailor.core.reason import Reason, stated
from tailor.core.settings import Settings

ALL = "all"


@dataclass(frozen=True)
class Stitching:
    """How the seams of a job are stitched, as settled.

    pitch: spacing aimed at. thread, hole: their thickness and diameter. odd: the holes are to be odd in number.
    back: back-stitches at the end. wrapped: open ends that a stitch wraps over. mm.
    """

    method: Method
    making: Making
    pitch: Reason
    thread: Reason
    hole: Reason
    odd: bool
    back: float
    wrapped: int

    def reasons(self) -> tuple[Reason, ...]:
        return self.pitch, self.thread, self.hole


def stitching_of(settings: Settings, leather: Leather, ends: int) -> Stitching:
    """The stitching of the settings. ends: how many open ends its main seam has."""
    method, making = METHODS[settings.word("stitch.method")], MAKINGS[settings.word("stitch.holes")]
    pitch = _pitch(settings, leather)
    thread = settings.settled(
        stated("stitch.thread", thread_for(pitch.value), "mm", "a fifth of the spacing fills it without crowding",
               spacing=pitch.value)
    )  # fmt: skip
    hole = settings.settled(
        stated("seam.hole", making.wide * thread.value, "mm", f"as {making.said} leaves it for this thread",
               thread=thread.value, thicknesses=making.wide)
    )  # fmt: skip
    odd = method.odd or settings.word("stitch.count") == "odd"
    wrapped = ends if settings.word("stitch.wrap") == "yes" else 0
    return Stitching(method, making, pitch, thread, hole, odd, settings.number("stitch.back"), wrapped)


def _pitch(settings: Settings, leather: Leather) -> Reason:
    """Stitch spacing aimed at, mm: finer on thin leather."""
    by_leather = 3.0 if leather.thickness < 2 else 4.0
    rule = "fine stitching on thin leather" if leather.thickness < 2 else "usual for goods of this size"
    return settings.settled(stated("seam.pitch", by_leather, "mm", rule, leather=leather.thickness))


def sewn(
    name: str, pieces: tuple[str, ...], edges: tuple[str, ...], holes: HoleLine, profile: Profile, how: Stitching,
    margin: float, wrapped: int = 0,
) -> Seam:  # fmt: skip
    """A seam through holes, with the thread and the time it takes.

    profile: its layers at every hole. margin: from a hole over the open edge beside it, mm. wrapped: open ends that
    a stitch wraps over.
    """
    length, count = float(holes.at[-1] - holes.at[0]), len(holes.points)
    depth = profile.heights.sum(axis=1)
    thread = thread_length(how.method, depth, holes.chord, margin, how.back, wrapped)
    seconds = how.method.seconds * (count - 1 + how.back + wrapped)
    return Seam(
        name, pieces, edges, length, count, holes.chord, float(depth.max()), thread, thread_rule(length),
        how.method.name, how.making.name, seconds,
    )  # fmt: skip


def as_marked(settings: Settings, pieces: tuple[Piece, ...], seams: tuple[Seam, ...]) -> tuple[Piece, ...]:
    """The pieces with holes on all of them; or on the first edge of each seam, where the rest is pierced through."""
    if settings.word("stitch.marks") == ALL:
        return pieces
    first = {(seam.name, seam.edges[0]) for seam in seams}
    return tuple(replace(p, holes=tuple(h for h in p.holes if (h.seam, h.edge) in first)) for p in pieces)


def even_stack(stack: Stack, holes: HoleLine) -> Profile:
    """The same layers all along a seam."""
    heights = np.tile([layer.height for layer in stack.layers], (len(holes.at), 1))
    return Profile(holes.at - holes.at[0], tuple(layer.name for layer in stack.layers), heights)


def two_layers(names: tuple[str, str], thickness: float, under: float | None = None) -> Stack:
    """Two layers, of the same leather where it is not said how thick the one under it is."""
    return Stack((Layer(names[0], thickness), Layer(names[1], thickness if under is None else under)))


def seam_said(
    seam: Seam, how: Stitching, profile: Profile, leather: Leather, welt: float, faired: float, most: float
) -> tuple[Reason, ...]:
    """Numbers of a welted seam that follow and are worth saying. welt: height of its layers; most: fairing allowed."""
    run = seam.count - 1
    return (
        *how.reasons(),
        stated("welt.stack", welt, "mm", "its layers together", layers=len(profile.names) - 2),
        stated("seam.stack", seam.stack, "mm", "front, welts and back", body=leather.thickness, welts=welt),
        stated("seam.chord", seam.chord, "mm", "equal chords nearest to the spacing aimed at",
               stitches=run, length=seam.length),
        stated("seam.count", float(seam.count), "count",
               "odd, so that the thread comes back into step" if how.odd else "whole stitches nearest to the spacing",
               stitches=run, spacing=how.pitch.value),
        stated("seam.thread", seam.thread, "mm", f"{how.method.said}, and tails",
               stitches=run, stack=seam.stack, thinnest=float(profile.heights.sum(axis=1).min()), chord=seam.chord,
               back_stitches=how.back, wrapped_ends=float(how.wrapped)),
        stated("seam.time", seam.seconds / 60, "min", f"a practised hand with this stitch ({how.method.name})",
               stitches=run, seconds_each=float(how.method.seconds)),
        stated("seam.faired", faired, "mm", "the most that fairing moved the stitch line", allowed=most),
    )  # fmt: skip
