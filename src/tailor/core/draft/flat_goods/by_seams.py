"""By seams: where panels go of which only the seams between them are known, each by those it is sewn to.

A strip whose stitch line is straight goes round what it is sewn to, eased in where it is not as long, its edges turned
out beside it; any other panel lies plane, as near to the holes it is sewn to as it can.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.draft.stitch.holes import Edge
from tailor.core.placed.lies import Bent, Frame, Laid, Lie, Swept
from tailor.core.placed.path import Path, through
from tailor.core.shell.wrap import HALF_PI

BENT = 1.0  # mm from the straight line between its ends, that a stitch line bows and counts as straight
TURNS = 0.5  # mm inside its stitches, that the edge of a strip is turned out
MISS = 0.6  # mm that holes may miss one another by, for a panel to lie so
FLANGE = 20.0  # mm of a strip beside its stitches that is turned out, or as much as there is


@dataclass(frozen=True)
class Meeting:
    """A seam: for each of its panels its stitch line, whose anchors are at its first hole and its last."""

    edges: Mapping[str, Edge]

    def holes(self, panel: str) -> Array:
        """Places along a panel's stitch line that meet those of the others, flat, (n, 2)."""
        edge = self.edges[panel]
        return edge.line(np.linspace(edge.anchors[0], edge.anchors[-1], 33))

    def straight(self, panel: str) -> bool:
        at = self.holes(panel)
        along = (at[-1] - at[0]) / max(float(np.hypot(*(at[-1] - at[0]))), 1e-9)
        return bool(np.abs((at - at[0]) @ np.array([-along[1], along[0]])).max() < BENT)


def by_seams(outlines: Mapping[str, Array], thick: float, meetings: Sequence[Meeting]) -> dict[str, Lie]:
    """Where panels lie, by their names; what hangs together with none is left out, and what would have to be bent or
    folded in another way to come together with those that lie. outlines: (n, 2) each.
    """
    sewn = [name for name in outlines if any(name in meeting.edges for meeting in meetings)]
    if not sewn:
        return {}
    bowed = [name for name in sewn if any(name in m.edges and not m.straight(name) for m in meetings)]
    lies, tried = dict[str, Lie]({(bowed or sewn)[0]: Bent(Frame())}), set[tuple[str, str]]()
    while (found := _next(meetings, lies, tried)) is not None:
        meeting, known, name = found
        tried.add((known, name))
        plane = lies[known]
        if isinstance(plane, Bent) and meeting.straight(name):
            also = [m for m in meetings if m is not meeting and name in m.edges and m.straight(name)]
            lie: Lie = _strip(outlines, thick, meeting, known, name, plane.frame, also)
        else:
            lie = _plane(thick, meeting, known, name, lies)
        own = [m for m in meetings if name in m.edges]
        if all(_met(m, lies[other], other, lie, name) for m in own for other in m.edges if other in lies):
            lies[name] = lie
    return lies


def _next(
    meetings: Sequence[Meeting], lies: Mapping[str, Lie], tried: set[tuple[str, str]]
) -> tuple[Meeting, str, str] | None:  # fmt: skip
    """A seam, a panel that lies, and one that does not yet and of which it tells how: about one straight line it could
    be turned anyhow.
    """
    for meeting in meetings:
        for known in meeting.edges:
            for name in meeting.edges:
                told = known in lies and name not in lies and not (meeting.straight(known) and meeting.straight(name))
                if told and (known, name) not in tried:
                    return meeting, known, name
    return None


def _met(meeting: Meeting, lies: Lie, known: str, lie: Lie, name: str) -> bool:
    """Whether holes come to lie on one another, as far as the leather lies there."""
    one, other = lies(meeting.holes(known)), lie(meeting.holes(name))
    apart = other.at - one.at
    aside = apart - (apart * one.out).sum(axis=1)[:, None] * one.out
    return bool(np.linalg.norm(aside, axis=1).max() < MISS)


def _strip(
    outlines: Mapping[str, Array], thick: float, meeting: Meeting, known: str, name: str, frame: Frame,
    also: Sequence[Meeting],
) -> Laid:  # fmt: skip
    """A strip round a panel that lies plane, behind it; its far edge is turned out too where that is sewn."""
    edge, own = meeting.edges[known], meeting.holes(name)
    line, at = edge.line.points, edge.anchors[0]
    along = (own[-1] - own[0]) / np.hypot(*(own[-1] - own[0]))
    aside = np.array([along[1], -along[0]])  # of the strip, so that it is not turned over
    if (outlines[name].mean(axis=0) - own[0]) @ aside > 0:
        line, at, along, aside = line[::-1], edge.line.length - edge.anchors[0], -along, -aside
    inner = -aside
    far = [abs(float((m.holes(name)[0] - own[0]) @ inner)) for m in also]
    middle = line[len(line) // 2]
    ahead = line[min(len(line) // 2 + 1, len(line) - 1)] - middle
    left = np.array([-ahead[1], ahead[0]])
    out = 1.0 if (outlines[known].mean(axis=0) - middle) @ left < 0 else -1.0
    runs, kinks = [(FLANGE + TURNS, 0.0)], [0.0]
    for wide in [min(far)] if far else []:
        runs, kinks = [*runs, (max(wide - 2 * TURNS, TURNS), 0.0), (FLANGE, 0.0)], [0.0, out * HALF_PI, out * HALF_PI]
    if not far:
        runs, kinks = [*runs, (FLANGE, 0.0)], [0.0, out * HALF_PI]
    section = Path(tuple(runs), (0.0, out * FLANGE), -out * HALF_PI, -FLANGE, tuple(kinks))
    behind = frame.moved(tuple(-thick * frame.out))
    eased = 1 - _sewn(meeting.edges[name]) / _sewn(edge)
    wound = Swept(behind, through(line), section, eased=eased)
    turn = float(np.arctan2(-along[0], -along[1]))  # which brings the way along it to run down
    c, s = np.cos(turn), np.sin(turn)
    spot = np.array([0.0, -at * (1 - eased)]) - own[0] @ np.array([[c, s], [-s, c]])
    return Laid(wound, 0.0, (float(spot[0]), float(spot[1])), turn)


def _sewn(edge: Edge) -> float:
    """How long a stitch line is from its first hole to its last, mm."""
    return float(edge.anchors[-1] - edge.anchors[0])


def _plane(thick: float, meeting: Meeting, known: str, name: str, lies: Mapping[str, Lie]) -> Bent:
    """A panel that lies plane where its holes come nearest to those of one that lies already, outside it."""
    flat, there = meeting.holes(name), lies[known](meeting.holes(known)).at
    here = np.column_stack([flat, np.zeros(len(flat))])
    left, _, right = np.linalg.svd((here - here.mean(axis=0)).T @ (there - there.mean(axis=0)))
    turn = left @ np.diag([1.0, 1.0, np.sign(np.linalg.det(left @ right))]) @ right
    origin = there.mean(axis=0) - here.mean(axis=0) @ turn
    every = np.vstack([lie(np.zeros((1, 2))).at for lie in lies.values()] + [there])
    away = turn[2] * (1.0 if (origin - every.mean(axis=0)) @ turn[2] >= 0 else -1.0)
    return Bent(Frame(origin + thick * away, turn[0], turn[1]))
