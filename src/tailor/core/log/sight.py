"""Sight: one job as the log shows it: its pieces, where its places are on them, and what can be measured of it."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.job import Job, draft
from tailor.core.log.entry import Place
from tailor.core.log.measurable import Measurable, besides, measurable
from tailor.core.log.opening import spots
from tailor.core.shop.agenda import Seen
from tailor.core.shop.drawn import drawn


@dataclass(frozen=True)
class Sight:
    """there: what can be measured that a constant is learned from; besides: what only says what went wrong."""

    job: Job
    made: Draft
    seen: tuple[Seen, ...]
    spots: Mapping[Place, Array]
    there: tuple[Measurable, ...]
    besides: tuple[Measurable, ...]


def sight(job: Job, made: Draft | None = None) -> Sight:
    """What is seen of a job. made: its draft, where it is there already. Raises InputError as draft does."""
    made = made or draft(job)
    seen = drawn(made.pieces)
    return Sight(job, made, seen, spots(made, seen), measurable(job, made), besides(job, made))
