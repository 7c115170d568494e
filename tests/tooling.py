"""What is put on the leather of a demo job, and distances on flat pieces by brute force."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np

from tailor import demo
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece
from tailor.core.draft.tooled.asked import Line, Picture, Tooling
from tailor.core.draft.tooled.came import Field
from tailor.core.draft.tooled.field import fields, is_tooled
from tailor.core.job import Job, draft

TURN = np.linspace(0, 2 * np.pi, 25)[:-1]
LEAF = np.column_stack([14 * np.cos(TURN), 8 * np.sin(TURN) + 3 * np.cos(TURN) ** 2])
FLAG = ((0.0, 0.0), (0.0, 20.0), (9.0, 16.0), (0.0, 12.0))  # of no symmetry


def line(points: Array | tuple[tuple[float, float], ...], closed: bool = True) -> Line:
    return Line(tuple((float(x), float(y)) for x, y in points), closed)


def picture(piece: str, **more: object) -> Picture:
    told = {"name": "leaf", "drawn": (line(LEAF), line(((-14.0, 0.0), (14.0, 0.0)), closed=False))} | more
    return Picture(piece=piece, **told)  # type: ignore[arg-type]


@cache
def made_of(name: str) -> Draft:
    return draft(demo.job(name)).unmarked()


def put_on(name: str, *asked: Tooling | Picture, **settings: str) -> tuple[Job, Draft]:
    job = replace(demo.job(name), tooling=asked)
    for key, text in settings.items():
        job = job.typed(key.replace("_", ".", 1), text)
    return job, draft(job)


def every_field(name: str, **settings: str) -> list[tuple[Piece, Field]]:
    job, made = demo.job(name), made_of(name)
    for key, text in settings.items():
        job = job.typed(key.replace("_", ".", 1), text)
    pieces = [piece for piece in made.pieces if is_tooled(piece)]
    return [(piece, field) for piece in pieces for field in fields(job.settings.afresh(), made, piece)]


def to_segments(places: Array, ring: Array) -> Array:
    """How far places are from a polyline (n, 2), by hand."""
    a, b = ring[:-1], ring[1:]
    along = b - a
    share = ((places[:, None] - a) * along).sum(axis=2) / np.maximum((along**2).sum(axis=1), 1e-12)
    foot = a + np.clip(share, 0, 1)[:, :, None] * along
    return np.asarray(np.hypot(*(places[:, None] - foot).transpose(2, 0, 1)).min(axis=1))


def closed(ring: Array) -> Array:
    return np.vstack([ring, ring[:1]])


def signed(ring: Array) -> float:
    return float((ring[:-1, 0] * ring[1:, 1] - ring[1:, 0] * ring[:-1, 1]).sum())
