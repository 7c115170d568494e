"""Using: what follows where a maker makes a belief his own: a constant of new drafts, a rate, or the share of waste."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from tailor.core.bench.rates import Rates
from tailor.core.keys import KEYS
from tailor.core.log.case import Belief
from tailor.core.log.constants import CLEARANCE, RATE
from tailor.core.shop.leathers import Sort
from tailor.core.shop.quote import Terms
from tailor.core.taken import DRYING, Taken

WASTE = "hide.waste"


def taken_of(belief: Belief, sorts: Iterable[Sort]) -> Taken | None:
    """What new drafts would go by; None where a belief is of nothing that is drafted.

    sorts: the shop's leathers, by which a belief's own is known.
    """
    if belief.constant not in KEYS and belief.constant != DRYING:
        return None
    value = belief.mean
    if belief.constant in KEYS:
        of = KEYS[belief.constant]
        value = min(max(value, of.low), of.high)
    of_it = Taken(belief.constant, round(value, 4), round(belief.sd, 4), belief.cases, belief.prior_mean,
                  method=belief.method)  # fmt: skip
    if belief.constant == CLEARANCE:
        return replace(of_it, thing=belief.leather)
    sort = next((sort for sort in sorts if sort.name == belief.leather), None)
    if sort is None:
        return None if belief.leather else of_it  # of a leather that is not there no job is known to be
    return replace(of_it, leather=sort.name, thickness=sort.thickness, temper=sort.temper)


def rates_of(belief: Belief, rates: Rates) -> Rates | None:
    """The shop's rates with what is believed of one; None where a belief is of none."""
    name = belief.constant.removeprefix(RATE)
    return replace(rates, **{name: round(belief.mean, 4)}) if belief.constant.startswith(RATE) else None


def terms_of(belief: Belief, terms: Terms) -> Terms | None:
    """How the shop reckons, with what is believed of it; None where a belief is of nothing of that."""
    return replace(terms, waste=round(min(max(belief.mean, 0.0), 0.9), 3)) if belief.constant == WASTE else None


def with_taken(mine: Iterable[Taken], one: Taken) -> tuple[Taken, ...]:
    """What a maker goes by, with one more, in place of the one that was of the same."""
    return (*(each for each in mine if not each.same(one)), one)


def without(mine: Iterable[Taken], one: Taken) -> tuple[Taken, ...]:
    """What a maker goes by once one is let go."""
    return tuple(each for each in mine if not each.same(one))
