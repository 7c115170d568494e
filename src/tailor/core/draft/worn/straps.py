"""Straps: folded lengthwise, wrapped round a handle, let out by a row of holes.

Soft leather stretches, so a strap of it is folded over webbing, which bears the pull. Source: craft, "Soft leathers".
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.leather.leather import Leather

WEBBING = 1.2  # mm thick
GAP = 0.5  # mm left between edges that meet


@dataclass(frozen=True)
class FoldedStrap:
    """A strap folded lengthwise, flat, mm. width: cut width. folds: (k,) places of its folds from one edge.

    gullies: (k, 2) from where to where the leather is thinned on its flesh side, so that each fold lies close.
    layers: how many lie on one another. height: of them all, webbing and all.
    """

    width: float
    folds: Array
    gullies: Array
    layers: int
    height: float


def folded(leather: Leather, wide: float, layers: int, webbing: bool = False) -> FoldedStrap:
    """A strap `wide` mm when folded: once (two layers), or like a letter, one leg over the other (three).

    Each leg ends level with the fold beside it. Raises InputError where folds leave no room for legs. Source:
    geometry, "Carry": legs run flat, a fold takes pi times its neutral radius.
    """
    if layers not in (2, 3):
        raise InputError(f"a strap is folded in two or three layers, not {layers}", "strap.layers", "give 2 or 3")
    core = WEBBING if webbing else 0.0
    radius = max(leather.inside_radius, core / 2)
    out = radius + leather.thickness  # a fold's crest stands so far beyond where its legs lie flat
    bend = np.pi * (radius + leather.offset)
    if layers == 2:
        leg = wide - out
        width, folds, reach = 2 * leg + bend, np.array([leg + bend / 2]), np.array([bend / 2])
    else:
        # the outer leg goes over the inner one as well, so its fold is rounder by half a thickness
        wider = radius + leather.thickness / 2
        over = wider + leather.thickness
        more = np.pi * (wider + leather.offset)
        middle = wide - out - over
        inner, outer = middle + over - leather.thickness - GAP, middle + out
        width = inner + bend + middle + more + outer
        folds = np.array([inner + bend / 2, inner + bend + middle + more / 2])
        reach, leg = np.array([bend / 2, more / 2]), min(inner, middle)
    if leg <= 0:
        raise InputError(
            f"{wide:g} mm is too narrow to fold leather {leather.thickness:g} mm thick", "strap.width",
            "give a wider strap, or thinner leather",
        )  # fmt: skip
    return FoldedStrap(
        float(width), folds, np.column_stack([folds - reach, folds + reach]), layers, layers * leather.thickness + core
    )


def wrapped_round(leather: Leather, across: float) -> float:
    """Width of a strip whose edges meet when it is wrapped round a handle `across` mm thick, flesh inside, mm."""
    return float(np.pi * (across + 2 * leather.offset) - GAP)


def hole_row(length: float, beyond: float, reach: float, apart: float) -> Array:
    """Places of the holes by which a strap is let out, from its end, (n,), rising, mm.

    beyond: from the end to the first. reach: by how much it is to be let out. apart: asked for between two; they come
    out even. Raises InputError where they do not fit on the strap.
    """
    count = max(1, round(reach / apart))
    if beyond + reach > length / 2:
        raise InputError(
            f"{reach:g} mm of holes do not fit on a strap {length:.0f} mm long", "strap.reach", "let it out by less"
        )
    return np.asarray(beyond + np.linspace(0.0, reach, count + 1))
