"""Weight: how heavy a thing is and where it balances."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import numpy as np
import shapely

from tailor.core import measure
from tailor.core.carried.loft import Array, Loft
from tailor.core.measure import Theme


def _hangs(job: Any, made: Any) -> bool:
    return made.hang is not None


MEASURES = (
    measure.mass("object.mass", Theme.HANG, "object weighs", "what the object weighs", 1, 20000, first=True,
        applies=_hangs),
    measure.length("object.balance", Theme.HANG, "balances at", "height at which the object balances on a finger", -1e4,
        1e4, first=True, applies=_hangs),
)  # fmt: skip

STEP = 1.0  # mm between the sections that an object is summed over


@dataclass(frozen=True)
class Body:
    """Something heavy: its mass, g, and where it balances, mm, in the object's axes (z towards the front)."""

    mass: float
    x: float
    y: float
    z: float


def together(bodies: Iterable[Body]) -> Body:
    """Several bodies as one."""
    every = np.array([(b.mass, b.x, b.y, b.z) for b in bodies])
    mass = float(every[:, 0].sum())
    x, y, z = (every[:, 0] @ every[:, 1:]) / mass
    return Body(mass, float(x), float(y), float(z))


@lru_cache(maxsize=16)
def solid(loft: Loft, density: float) -> Body:
    """The object as if it were all of one stuff. density: g/cm³."""
    y = np.linspace(loft.tip, loft.top, max(int((loft.top - loft.tip) / STEP), 8) + 1)
    area, x, z = _sections(loft, y)
    whole = np.trapezoid(area, y)
    middle = [float(np.trapezoid(area * of, y) / whole) for of in (x, y, z)]
    return Body(float(whole) * density / 1000, *middle)


def balanced(loft: Loft, mass: float, y: float) -> Body:
    """The object with its mass known, g, and the height at which it balances on a finger, mm."""
    _, x, z = _sections(loft, np.array([np.clip(y, loft.tip, loft.top)]))
    return Body(mass, float(x[0]), y, float(z[0]))


def _sections(loft: Loft, y: Array) -> tuple[Array, Array, Array]:
    """Area (n,) and middle x and z of the sections at rows y, mm² and mm."""
    seen = loft.sections(y)
    high = seen.front + seen.back
    area = np.trapezoid(high, seen.x, axis=1)
    safe = np.maximum(area, 1e-9)
    x = np.trapezoid(high * seen.x, seen.x, axis=1) / safe
    z = np.trapezoid((seen.front**2 - seen.back**2) / 2, seen.x, axis=1) / safe
    return np.asarray(area), np.asarray(x), np.asarray(z)


def sheet_of(outline: Array, thickness: float, density: float, z: float = 0.0) -> Body:
    """A flat piece with an outline (n, 2), mm, of leather that weighs so many g/cm³."""
    shape = shapely.Polygon(outline)
    return Body(shape.area * thickness * density / 1000, shape.centroid.x, shape.centroid.y, z)
