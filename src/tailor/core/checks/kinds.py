"""Kinds: what is asked of a case formed round its object, and of a thing of flat panels, besides what is of all.

A further kind of draft registers its own.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from functools import singledispatch

from tailor.core.carried.loft import Loft
from tailor.core.carried.zones import Zone
from tailor.core.checks import built, carry, closed, fit, forming, sewing, stitching
from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.draft.flat_goods.built import Built
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.together.ridden import sitting


@singledispatch
def of_its_kind(
    draft: Draft, settings: Settings, loft: Loft, zones: Sequence[Zone], whole: Assembled | None
) -> Iterator[Verdict]:
    """Verdicts on a draft as its kind is judged. whole: it put together; None where it is too rough for that."""
    return built.answered(draft)


@of_its_kind.register
def _(
    draft: Built, settings: Settings, loft: Loft, zones: Sequence[Zone], whole: Assembled | None
) -> Iterator[Verdict]:
    yield from built.verdicts(settings, draft)


@of_its_kind.register
def _(
    draft: Fitted, settings: Settings, loft: Loft, zones: Sequence[Zone], whole: Assembled | None
) -> Iterator[Verdict]:
    yield from built.answered(draft)
    yield from fit.verdicts(settings, loft, zones, draft)
    yield from forming.verdicts(settings, loft, zones, draft)
    yield from sewing.verdicts(settings, draft)
    yield from stitching.verdicts(settings, draft)
    yield from carry.verdicts(draft, settings, None if whole is None else sitting(settings, draft, whole))
    yield from closed.verdicts(settings, zones, draft)
