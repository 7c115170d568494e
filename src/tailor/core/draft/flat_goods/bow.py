"""Bow: leather sewn down on either side of a round tool: the flat between the rows is less than the leather over it."""

from __future__ import annotations

import numpy as np
import scipy

from tailor.core import habit
from tailor.core.carried.loft import Array, Loft
from tailor.core.draft.views.section import band
from tailor.core.leather.leather import Leather
from tailor.core.placed.path import Path
from tailor.core.shell.run import of_chain
from tailor.core.shell.wrap import Chain, chain

LANDS = 0.02  # mm before its row that leather comes down
STEEP = habit.bench("bow.steep", 60, 40, 80, "at which leather sewn over a tool comes down beside it", habit.ANGLE)


def _line(leather: Leather, size: float, steep: float) -> tuple[Chain, float]:
    """The neutral line over a tool that lies on the base, and how far from its middle the row of stitches is, mm."""
    radius, steep = size / 2, np.radians(steep)
    # A line that comes down so steeply touches the tool's circle and meets the base so far out:
    half = float(radius * (1 + np.cos(steep)) / np.sin(steep))
    line = chain(
        np.array([[0.0]]), np.array([[radius]]), radius, np.array([[-half, 0.0]]), 0.0, np.array([[half, 0.0]]),
        leather.offset,
    )  # fmt: skip
    return line, half


def bowed_over(leather: Leather, size: float, steep: float) -> tuple[float, float]:
    """Between the two rows on the base, and over the tool on the sheet above it, mm.

    size: the tool and its room. steep: degrees at which the leather comes down.
    """
    line, half = _line(leather, size, steep)
    run = of_chain(line, np.zeros(1))
    return 2 * half, 2 * float(run.length_to(np.array([half]))[0])


def bowed(leather: Leather, size: float, flat: float, over: float) -> Path:
    """How leather bends from row to row over a tool, s = 0 over its middle, level beyond them, mm.

    flat, over: between its rows, on the base and on the sheet, as `bowed_over` has them. It is drawn down to the base
    by its stitches, and comes down so much the steeper.
    """
    radius = size / 2 + leather.offset
    turn = float(scipy.optimize.brentq(
        lambda a: (over - 2 * radius * a) * np.cos(a) + 2 * radius * np.sin(a) - flat, 1e-3, over / (2 * radius)
    ))  # fmt: skip
    slope = over / 2 - radius * turn
    runs = (LANDS, 0.0), (slope - LANDS, 0.0), (2 * radius * turn, -2 * turn), (slope - LANDS, 0.0), (LANDS, 0.0)
    return Path(runs, (-flat / 2, 0.0), first=-over / 2, kinks=(0.0, turn, 0.0, 0.0, turn))


def channel_for(loft: Loft, steep: float) -> float:
    """Diameter of the least bar whose channel takes a thing too that lies on its back, mm. steep: degrees at which the
    leather comes down from the bar to its rows.
    """
    rows = loft.sections(loft.at_stations())
    x = np.abs(rows.x - (rows.x_spine.min() + rows.x_seam.max()) / 2)
    x, z = np.tile(x.ravel(), 2), np.concatenate([(rows.front + rows.back.max()).ravel(),
                                                  (rows.back.max() - rows.back).ravel()])  # fmt: skip
    turn = np.radians(steep)
    leaves, half = (1 + np.cos(turn)) / 2, (1 + np.cos(turn)) / np.sin(turn) / 2  # of its diameter: how high, how far
    beside = np.maximum((x + z / np.tan(turn)) / half, z / leaves)
    within = np.divide(x**2 + z**2, z, out=np.full_like(z, np.inf), where=z > 1e-6)
    return float(np.minimum(beside, within).max())


def arch(leather: Leather, size: float, steep: float) -> Array:
    """The leather over a tool cut through, closed, (n, 2), about its middle, mm. As `bowed_over`."""
    line, half = _line(leather, size, steep)
    right = line.points(0, half + 1.5)
    right = right[right[:, 0] > 0]
    whole = np.vstack([(right * [-1.0, 1.0])[::-1], right])
    return band(whole, leather)
