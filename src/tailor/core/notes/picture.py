"""Pictures of the notes: a few strokes each, in a field 100 wide and 60 high, y upward."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import cos, pi, sin

Point = tuple[float, float]
WIDE, HIGH = 100.0, 60.0


@dataclass(frozen=True)
class Stroke:
    """kind: what it is of: leather, thing, welt or foam, which are filled; cut, fold, stitch or neutral, which are
    lines; hole, a dot at each point; and measure, between two points. said: a word at its first point.
    """

    kind: str
    points: tuple[Point, ...]
    said: str = ""


def stroke(kind: str, *points: Point, said: str = "") -> Stroke:
    return Stroke(kind, points, said)


def box(kind: str, x: float, y: float, wide: float, high: float) -> Stroke:
    return Stroke(kind, ((x, y), (x + wide, y), (x + wide, y + high), (x, y + high)))


def disc(kind: str, x: float, y: float, wide: float, high: float) -> Stroke:
    """An ellipse by its middle and its sizes."""
    return Stroke(kind, tuple(arc(x, y, wide / 2, high / 2, 0, 360)))


def arc(x: float, y: float, across: float, up: float, from_: float, to: float) -> list[Point]:
    """Points of an arc about a middle, by its half sizes and from angle to angle, degrees."""
    many = max(round(abs(to - from_) / 10), 2)
    turns = [(from_ + (to - from_) * k / many) * pi / 180 for k in range(many + 1)]
    return [(x + across * cos(turn), y + up * sin(turn)) for turn in turns]


def sheet(path: Sequence[Point], thick: float, kind: str = "leather") -> Stroke:
    """Leather seen from its edge, along a path, so thick."""
    out = []
    for k, (x, y) in enumerate(path):
        before, after = path[max(k - 1, 0)], path[min(k + 1, len(path) - 1)]
        dx, dy = after[0] - before[0], after[1] - before[1]
        size = (dx * dx + dy * dy) ** 0.5 or 1.0
        out.append((x - dy / size * thick, y + dx / size * thick))
    return Stroke(kind, (*path, *reversed(out)))


def row(x: float, y: float, to_x: float, to_y: float, many: int) -> Stroke:
    """Holes from one place to another."""
    steps = [k / (many - 1) for k in range(many)]
    return Stroke("hole", tuple((x + (to_x - x) * k, y + (to_y - y) * k) for k in steps))
