"""Promise: how much longer whole jobs take than was thought, and what can be said of the next."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from scipy.stats import t as student

USUAL = 0.2  # standard deviation of the logarithm of what a job takes against what was thought
COUNTS = 3.0  # jobs that it is worth
PACE = 2.0  # times as far may all of a maker's be off as one is off them


@dataclass(frozen=True)
class Promise:
    """What jobs that were finished say. pace: how much longer they take, as a factor; wide, free: of the t of the
    next's logarithm about it.
    """

    pace: float
    wide: float
    free: float

    def factor(self, chance: float) -> float:
        """What thought minutes are to be multiplied by, so that the next job keeps to it with a chance."""
        return self.pace * math.exp(self.wide * float(student.ppf(chance, self.free)))


def promise(thought: Sequence[float], took: Sequence[float]) -> Promise:
    """From the minutes that were thought for jobs, and those they took: normal logarithms about an unknown mean with an
    unknown spread, in closed form.
    """
    off = [math.log(b / a) for a, b in zip(thought, took, strict=True)]
    n, counted = len(off), 1 / PACE**2
    mean = sum(off) / n if n else 0.0
    free = COUNTS + n
    about = counted + n
    spread = COUNTS * USUAL**2 + sum((x - mean) ** 2 for x in off) + counted * n / about * mean**2
    return Promise(math.exp(n * mean / about), math.sqrt(spread / free * (1 + 1 / about)), free)
