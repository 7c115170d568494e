"""Picking: which constructions suit an object and what is asked of it, best first, and why not the others."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from tailor.core.carried.loft import Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.draft import styles
from tailor.core.draft.style import Asked, Suited, suited

THIN = 0.15  # of its width, below which a plain thing is taken for cards
FLAT = 0.25  # below which for a book; up to twice that for a slab
CARD = 95.0  # mm wide, the most that a card is
SLIM = 12.0  # mm of thickness that cards and books stay under and over


def ranked(asked: Asked, loft: Loft, zones: Sequence[Zone]) -> tuple[Suited, ...]:
    """Every construction, the best suited first; those that cannot be come last, with the reason."""
    found = [suited(name, styles.style(name), asked, loft, zones) for name in styles.names()]
    return tuple(sorted(found, key=lambda s: (s.never, -s.mark)))


def guessed(loft: Loft, zones: Sequence[Zone]) -> Asked:
    """What a measured object looks like, for a maker to put right."""
    rows = loft.sizes(np.array([s.y for s in loft.stations]))
    wide, thick = float(rows[:, 1].max()), float((rows[:, 2] + rows[:, 3]).max())
    plain = float(rows[:, 1].min()) > 0.9 * wide
    if of_kind(zones, ZoneKind.TRIGGER):
        what = "tool with a trigger"
    elif of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT):
        what = "head on a handle" if int(rows[:, 1].argmax()) < len(rows) / 2 and wide > 90 else "blade"
    elif of_kind(zones, ZoneKind.CONTROL):
        what = "device"
    elif plain and thick < THIN * wide:
        what = "book" if thick >= SLIM / 2 else "cards" if wide < CARD else "papers"
    elif plain and thick < 2 * FLAT * wide + SLIM:
        what = "slab"
    else:
        what = "loose kit" if plain and loft.top - loft.tip > 150 else "tool"
    belt = what in ("blade", "tool with a trigger", "tool", "device")
    worn = "on the belt" if belt else "in a pocket" if what in ("slab", "cards", "papers") else "in the hand"
    return Asked(what, worn, "none")
