"""Blocks: objects plain enough to be told by a few sizes."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array
from tailor.core.carried.stations import Shape, Station, Table, neat
from tailor.core.errors import InputError

CARD_CORNER = 3.2  # mm: rounding of a card's corners
BOARD = 2.5  # mm: stiff boards of a book
WHERE = "block"


def block(length: float, width: float, height: float, edge: float = 0.0) -> Table:
    """A box standing on its end, all its edges rounded by `edge` mm."""
    _sound(length=length, width=width, height=height)
    if not 0 <= edge <= min(length, width, height) / 2:
        raise InputError(
            f"edges rounded by {edge:g} do not fit it", WHERE, f"give 0 to {min(length, width, height) / 2:g}"
        )
    y, inset = _rounded_ends(length, edge)
    rows = [(h, width - 2 * i, height - 2 * i, edge - i) for h, i in zip(y, inset, strict=True)]
    return _table([_slab(h, w, t, max(c, 0.0)) for h, w, t, c in rows])


def cylinder(length: float, diameter: float) -> Table:
    """A round bar along the draw."""
    _sound(length=length, diameter=diameter)
    half = diameter / 2
    return _table([Station(y, -half, half, half, half, Shape.OVAL) for y in (0.0, length)])


def book(length: float, width: float, height: float) -> Table:
    """A closed book drawn out by its head: its spine is at the spine side, its boards are square."""
    _sound(length=length, width=width, height=height)
    return _table([_slab(y, width, height, min(BOARD, height / 2) / 2) for y in (0.0, length)])


def cards(length: float, width: float, height: float) -> Table:
    """A stack of cards with rounded corners."""
    _sound(length=length, width=width, height=height)
    y, inset = _rounded_ends(length, min(CARD_CORNER, width / 3, length / 3))
    return _table([_slab(h, width - 2 * i, height, 0.0) for h, i in zip(y, inset, strict=True)])


KINDS: Mapping[str, Callable[..., Table]] = MappingProxyType(
    {"block": block, "cylinder": cylinder, "book": book, "cards": cards}
)


@dataclass(frozen=True)
class Told:
    """A plain object as it is told: its kind, and its sizes in the order its kind asks for them, mm."""

    kind: str
    sizes: tuple[float, ...]


def told(stations: Sequence[Station]) -> Told | None:
    """The plain object that gives just these stations; None where none does."""
    first, last = stations[0], stations[-1]
    widest = max(stations, key=lambda s: s.width)
    if first.y != 0 or {s.shape for s in stations} not in ({Shape.SLAB}, {Shape.OVAL}):
        return None
    length, width, height = last.y, widest.width, max(s.thickness for s in stations)
    tries = {
        "cylinder": (length, width), "book": (length, width, height), "cards": (length, width, height),
        "block": (length, width, height, round(max(s.corner for s in stations), 2)),
    }  # fmt: skip
    order = ("cylinder",) if first.shape is Shape.OVAL else ("block", "book", "cards")
    for kind in order:
        sizes = tuple(round(size, 2) for size in tries[kind])
        try:
            if KINDS[kind](*sizes).stations == tuple(stations):
                return Told(kind, sizes)
        except InputError:
            continue
    return None


def _rounded_ends(length: float, radius: float, steps: int = 12) -> tuple[Array, Array]:
    """Heights of stations along a length with rounded ends, and how far the sides are in at each."""
    if radius <= 0:
        return np.array([0.0, length]), np.zeros(2)
    turn = np.linspace(0.06, np.pi / 2, steps)  # not from 0: a station must have a width
    rise, inset = radius * (1 - np.cos(turn)), radius * (1 - np.sin(turn))
    rise[0] = 0.0
    y = np.concatenate([rise, length - rise[::-1]])
    keep = np.concatenate([[True], np.diff(y) > 1e-9])
    return y[keep], np.concatenate([inset, inset[::-1]])[keep]


def _slab(y: float, width: float, height: float, corner: float) -> Station:
    corner = min(corner, width / 2, height / 2)
    return Station(float(y), -width / 2, width / 2, height / 2, height / 2, Shape.SLAB, corner)


def _sound(**sizes: float) -> None:
    for name, size in sizes.items():
        if not (np.isfinite(size) and size > 0):
            raise InputError(f"its {name} is {size:g}", WHERE, "give a length above 0")


def _table(stations: list[Station]) -> Table:
    return Table(neat(stations), capture=Capture.usual(Way.BLOCK), blunt=True)
