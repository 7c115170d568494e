"""Sweeps: of the many things that a test goes over a run takes a part, and `make sweeps` all of them.

SWEEP=2 in the environment takes another of the PARTS, counted from 0; SWEEP=all takes all.
"""

from __future__ import annotations

import os
import random
from collections.abc import Iterable
from typing import TypeVar

T = TypeVar("T")
PARTS = 6
PART = os.environ.get("SWEEP", "0")
ALL = PART == "all"


def some(things: Iterable[T]) -> list[T]:
    """One part of things, as they fall, or all; of fewer than PARTS one."""
    every = list(things)
    fall = random.Random(len(every)).sample(range(len(every)), len(every))
    return every if ALL else [every[k] for k in sorted(fall[int(PART) % min(PARTS, len(every)) :: PARTS])]


def about(count: int) -> int:
    """How many to draw at random, of so many in all."""
    return count if ALL else -(-count // PARTS)
