"""Drafts of what was ordered, kept by a process that is asked for them again and again."""

from __future__ import annotations

from dataclasses import replace

from tailor.core.maker import Maker
from tailor.core.shop.made import Made, made
from tailor.core.shop.orders import Line

KEPT = 64  # drafts that are kept for the next time


class Drafts:
    """Drafts of jobs that were ordered, the last few: most are asked for again and again."""

    def __init__(self) -> None:
        self._kept: list[Made] = []
        self._of: list[tuple[Line, Maker]] = []

    def made(self, line: Line, maker: Maker) -> Made:
        """So many of a job. Raises InputError where it cannot be drafted."""
        for (of, by), thing in zip(self._of, self._kept, strict=True):
            if of.job == line.job and by == maker:
                return replace(thing, count=line.count)
        thing = made(line.job.by(maker), line.count)
        self._of, self._kept = [*self._of[-KEPT:], (line, maker)], [*self._kept[-KEPT:], thing]
        return thing
