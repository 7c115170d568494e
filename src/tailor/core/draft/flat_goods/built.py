"""Built: what is made of flat panels to an inside size, not formed round its object."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Claim, Draft


@dataclass(frozen=True)
class Slab:
    """One thing cut through: kind is "leather", "lining", "foam", "board", "belt" or "thing".

    outline: closed, (n, 2), across and out towards the front, mm.
    """

    kind: str
    outline: Array


@dataclass(frozen=True)
class Cross:
    """What a slice shows between two heights, mm."""

    low: float
    high: float
    layers: tuple[Slab, ...]


@dataclass(frozen=True)
class Joint:
    """Edges of panels that are sewn to each other by their flat lengths, mm, from first hole to last.

    further: by how much each lies outside the first, mm. turning: the angle the first turns through, radians. eased: a
    share by which the rule wants it shorter. ruled: cut by the rule, and so held to it.
    """

    seam: str
    lengths: tuple[float, ...]
    further: tuple[float, ...]
    turning: float
    eased: float = 0.0
    ruled: bool = True

    @property
    def amiss(self) -> float:
        """Most by which a length differs from what the rule makes of the first: its angle times how far out, mm."""
        first = self.lengths[0]
        wanted = [first * (1 - self.eased * (k > 0)) + self.turning * out for k, out in enumerate(self.further)]
        return max(abs(a - b) for a, b in zip(self.lengths, wanted, strict=True))


@dataclass(frozen=True, kw_only=True)
class Built(Draft):
    """A thing made of flat panels.

    asked: the room inside that was asked for, across, up and through, mm. crosses: slices, from below up. tied: where a
    measure is tied: the piece and the place on it. words: settings that are words and matter here. shown: the made-up
    thing from the front, back to front: kind as of a Slab, and outline. stiff: seams sewn with a board in already, and
    how far beside the needle it lies, mm.
    """

    asked: tuple[float, float, float]
    crosses: tuple[Cross, ...]
    tied: Mapping[str, tuple[str, float, float]]
    words: tuple[str, ...]
    joints: tuple[Joint, ...]
    shown: tuple[Slab, ...] = field(default=())
    stiff: tuple[tuple[str, float], ...] = ()

    @property
    def span(self) -> tuple[float, float]:
        return self.crosses[0].low, self.crosses[-1].high

    @property
    def top(self) -> float:
        return self.crosses[-1].high

    def cross(self, y: float) -> Cross:
        """The slice at a height, or the nearest."""
        return next((c for c in self.crosses if y <= c.high), self.crosses[-1])


__all__ = ["Built", "Claim", "Cross", "Joint", "Slab"]
