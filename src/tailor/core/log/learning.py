"""Learning: from what came out to what is believed, for every constant, leather and method that was met.

The same cases give the same beliefs. Nothing is used before a maker takes it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace
from itertools import groupby

from scipy.special import ndtr

from tailor.core.keys import KEYS
from tailor.core.log.case import Belief, Case, Said
from tailor.core.log.change import changed
from tailor.core.log.constants import CLEARANCE, CONSTANTS, Constant
from tailor.core.log.hierarchy import Guess, Hierarchy, Off
from tailor.core.log.words import BIAS, WIDE, wish

SURE = 0.8  # how surely a belief must be off the table before it is offered
MATTERS = 0.3  # of the spread about the table, that it must be off by
FEWEST = 3  # cases of one kind of thing before its clearance is spoken of


def learned(cases: Iterable[Case], said: Iterable[Said] = ()) -> tuple[Belief, ...]:
    """What is believed of every constant of which there is a case, or of all where there is none."""
    of = dict[str, list[Case]]()
    for case in sorted(cases, key=lambda case: case.made_on):
        of.setdefault(case.constant, []).append(case)
    found = [belief for name in CONSTANTS if name in of for belief in _of_one(CONSTANTS[name], of[name])]
    by_thing = groupby(sorted(said, key=lambda each: (each.thing, each.made_on)), key=lambda each: each.thing)
    found += [_wished(thing, list(mine)) for thing, mine in by_thing]
    return tuple(found)


def prior(constant: Constant, method: str = "") -> Belief:
    """What is believed before there is any case."""
    return _of_one(constant, (), method)[0]


def _of_one(constant: Constant, cases: Sequence[Case], method: str = "") -> list[Belief]:
    readings = [_off(constant, case) for case in cases]
    of_it = Hierarchy(readings, constant.spreads)
    kinds = {case.leather: case.tannage for case in cases}
    tannages = {case.tannage for case in cases}
    met = sorted({(case.leather, case.method) for case in cases})
    methods = sorted({case.method for case in cases} or {method})
    only = next(iter(tannages)) if len(tannages) == 1 else ""
    rows = [(leather, kinds[leather], how) for leather, how in met]
    rows += [("", only, how) for how in methods if ("", how) not in met]
    if not only:  # of each kind too, one that was not met
        rows += [("", kind, how) for kind in sorted(tannages) if kind for how in methods]
    found = []
    for leather, kind, how in rows:
        mine = [n for n, c in enumerate(cases) if (c.leather, c.method) == (leather, how)]
        unmet = sum(c.method == how and (not kind or c.tannage == kind) for c in cases)
        belief = _belief(
            constant, leather, how, of_it.guess(kind, leather, how), len(mine) or (0 if leather else unmet)
        )
        belief = replace(belief, tannage=kind)
        found.append(_with_change(constant, belief, [readings[n] for n in mine], [cases[n] for n in mine]))
    return found


def _off(constant: Constant, case: Case) -> Off:
    scale = constant.scale(case.spread, case.value)
    piece = case.piece or case.made_on.isoformat()
    return Off(constant.off(case.value, case.method), scale, case.tannage, case.leather, case.method, piece)


def _belief(constant: Constant, leather: str, method: str, guess: Guess, cases: int) -> Belief:
    mean, low, high = (constant.at(off, method) for off in (guess.mean, guess.low, guess.high))
    each = mean if constant.times else 1.0  # a standard deviation of a logarithm, as one of the value
    usual = constant.usual(method)
    believed = Belief(
        constant.name, leather, method, mean, guess.sd * each, low, high, cases, usual,
        constant.spreads.whole * (usual if constant.times else 1.0),
    )  # fmt: skip
    matters = abs(guess.mean) > MATTERS * constant.spreads.whole
    return replace(believed, offered=cases > 0 and matters and float(ndtr(abs(guess.mean) / (2 * guess.sd))) >= SURE)


def _with_change(constant: Constant, belief: Belief, readings: Sequence[Off], cases: Sequence[Case]) -> Belief:
    """The belief with the day from which its readings are of something else, where they are."""
    change = changed([r.by for r in readings], [r.scale for r in readings], constant.spreads.whole)
    return belief if change is None else replace(belief, since=cases[change.first].made_on, changed=change.share)


def _wished(thing: str, said: Sequence[Said]) -> Belief:
    """What clearance is wished for with a kind of thing."""
    usual = KEYS[CLEARANCE].usual
    assert isinstance(usual, int | float)
    guess, whole = wish(said, float(usual)).clearance, (WIDE**2 + BIAS**2) ** 0.5
    off = abs(guess.mean - usual)
    days = len({each.made_on for each in said})
    offered = days >= FEWEST and off > MATTERS * whole and float(ndtr(off / (2 * guess.sd))) >= SURE
    return Belief(CLEARANCE, thing, "", guess.mean, guess.sd, guess.low, guess.high, len(said), float(usual), whole,
                  offered)  # fmt: skip
