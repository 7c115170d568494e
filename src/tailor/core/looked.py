"""Looked: what a way of looking at a draft needs besides it: its relief, lit, and how its leather is strained."""

from __future__ import annotations

from dataclasses import dataclass
from functools import singledispatch

import numpy as np
from numpy.typing import NDArray

from tailor.core.checks import forming
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.fitted.panels import panels
from tailor.core.draft.views.seen import Eye, seen
from tailor.core.job import Job
from tailor.core.shell.formed import Formed
from tailor.core.shell.strain import Strain

Rgb = tuple[int, int, int]


@dataclass(frozen=True)
class Look:
    """A way of looking. eye: where a relief is seen from, None where it is drawn in lines. leather, steel: dyes."""

    eye: Eye | None
    strain: bool
    leather: Rgb
    steel: Rgb


@dataclass(frozen=True)
class Picture:
    """A lit relief as it is worn: RGBA (h, w, 4), and the room it takes, left, bottom, right, top, mm."""

    lit: NDArray[np.uint8]
    room: tuple[float, float, float, float]


@dataclass(frozen=True)
class Looked:
    """What a look found in a draft. picture, strains: None and empty where that look has none."""

    look: Look
    made: Draft
    picture: Picture | None
    strains: tuple[tuple[Formed, Strain], ...]


def looked(look: Look, job: Job, made: Draft) -> Looked:
    """Look at a draft of the job."""
    every = panels(made) if look.strain else ()
    strains = zip(every, forming.strains(job.settings, made, every), strict=True) if every else ()
    return Looked(look, made, None if look.eye is None else _pictured(made, look.eye, look), tuple(strains))


@singledispatch
def _pictured(made: Draft, eye: Eye, dyes: Look) -> Picture | None:
    return None  # it is drawn in lines


@_pictured.register
def _(made: Fitted, eye: Eye, dyes: Look) -> Picture:
    """The relief of a draft, as it is worn by its hand."""
    relief = seen(made, eye)
    lit = relief.lit(dyes.leather, dyes.steel)
    left, right = float(relief.across[0]), float(relief.across[-1])
    if made.mirrored:
        lit, left, right = lit[:, ::-1], -right, -left
    return Picture(np.ascontiguousarray(lit), (left, float(relief.up[-1]), right, float(relief.up[0])))
