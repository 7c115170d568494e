"""Laying out against one exact look at the layout, and planning against one exact look at the plan."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple, TypeVar

import numpy as np

from bench.bound import bound, forced
from bench.reference import searched
from tailor import demo
from tailor.core.bench.chance import TIMES, ready
from tailor.core.bench.planner import Planner
from tailor.core.bench.replan import few_moves, in_order, moved
from tailor.core.bench.work import FAR, Order, Person, Step, Wait, Work, broken
from tailor.core.cut import asked, exact, layer
from tailor.core.cut.laying import Hide, Laid, Laying
from tailor.core.cut.search import Search
from tailor.core.job import draft

HIDE = np.array([[0.0, 0], [2000, 0], [2000, 1000], [0, 1000]])
REFERENCE = 30.0  # s
SLIPS = 12
EVENINGS = tuple((day * 1440 + 1080, day * 1440 + 1260) for day in range(200))


def laying(share: float) -> Laying:
    """Pieces of the crew's things, over and over, until they are a share of a hide."""
    made = [t for n, name in enumerate(demo.names()) for t in asked.templates(draft(demo.job(name)), f"{name} {n}", 3)]
    order, area, kept = np.random.default_rng(1).permutation(len(made)), 0.0, []
    for k in order:
        if area + made[k].shape.area < share * 2e6:
            kept.append(made[k])
            area += made[k].shape.area
    return Laying((Hide("side", HIDE),), tuple(kept))


def laid_out(share: float) -> tuple[float, float, float, float, int]:
    """Seconds of an exact look, of the first layout, and of a drag; the share that lies after 5 s, of how many."""
    layer.warm()
    whole = laying(share)
    search = Search(whole, 1)
    begun, first = time.process_time(), 0.0
    for _ in search.run():
        took = time.process_time() - begun
        first = first or (took if search.steps else 0.0)
        if took > 5:
            break
    found = search.found()
    begun = time.process_time()
    list(exact.faults(whole, found.laid))
    look = time.process_time() - begun
    dragged = float(np.median([_dragged(whole, found.laid, n) for n in range(12)]))
    return look, first or took, dragged, found.share, len(whole.templates)


def _dragged(whole: Laying, laid: tuple[Laid, ...], n: int) -> float:
    rng = np.random.default_rng(n)
    while True:
        one = laid[rng.integers(len(laid))]
        to = replace(one, move=(one.move[0] + rng.uniform(-60, 60), one.move[1] + rng.uniform(-60, 60)))
        template = whole.template(one.id)
        if not list(exact.faults(replace(whole, templates=(template,)), [to])):
            break
    held = replace(whole, templates=tuple(t.pin(to) if t.id == to.id else t for t in whole.templates))
    begun = time.process_time()
    search = Search(held, 0, [other for other in laid if other.id != to.id])
    for _ in search.run():
        if time.process_time() - begun > 2:
            break
    search.found()
    return time.process_time() - begun


def work(orders: int, each: int = 65) -> Work:
    """So many things to make, each of so many steps, glue that must be joined in time among them."""
    rng = np.random.default_rng(2)
    steps, waits = list[Step](), list[Wait]()
    for o in range(orders):
        for n in range(each):
            glue = n % 9 == 4
            steps.append(Step(f"{o}.{n}", str(o), "", int(rng.integers(2, 18)), "glue" if glue else ""))
            if n:
                after = n % 9 == 5
                waits.append(Wait(f"{o}.{n - 1}", f"{o}.{n}", 15 if after else 0, 60 if after else None))
    dues = tuple(Order(str(o), "", 1.0, int(rng.integers(5, 40)) * 1440) for o in range(orders))
    return Work((Person("A", EVENINGS),), dues, tuple(steps), tuple(waits), families={"glue": 3})


T = TypeVar("T")


class Planning(NamedTuple):
    """Seconds of one exact look, the first plan, both plans after a slip, and a date with its chance; what five seconds
    gain of its cost, and that against what the reference search finds in half a minute; how many steps there are, and
    how many the fewest moves move, of a dozen slips in the middle and at worst, and how many of those then must.
    """

    look: float
    first: float
    in_order: float
    few: float
    chance: float
    gained: float
    reference: float
    steps: int
    moved: float
    most: int
    forced: int


def planned(orders: int) -> Planning:
    whole = work(orders)
    first, planner = _timed(lambda: Planner(whole, 0))
    going = planner.run()
    first += _timed(lambda: next(going))[0]
    cost, end = planner.cost, time.process_time() + 5
    while time.process_time() < end:
        next(going)
    plan = planner.best
    assert plan is not None
    look, faults = _timed(lambda: list(broken(whole, plan)))
    assert not faults
    slips = [_slipped(whole, int(k)) for k in np.random.default_rng(3).choice(len(whole.steps), SLIPS, replace=False)]
    in_order_, same = _timed(lambda: [in_order(slipped, plan) for slipped in slips])
    few, fewest = _timed(lambda: [few_moves(slipped, plan) for slipped in slips])
    begun = [(len(moved(found, plan)), n) for n, found in enumerate(fewest) if found is not None]
    assert len(begun) == SLIPS
    most, worst = max(begun)
    assert None not in same
    chances = ready(whole, plan)
    chance, _ = _timed(lambda: [next(chances) for _ in range(TIMES)])
    reference = planner.cost / searched(whole, REFERENCE)
    return Planning(look, first, in_order_ / SLIPS, few / SLIPS, chance, 1 - planner.cost / cost, reference,
                    len(whole.steps), float(np.median([count for count, _ in begun])), most,
                    forced(slips[worst], plan))  # fmt: skip


def _slipped(whole: Work, late: int) -> Work:
    """The same with one step half an hour longer."""
    steps = (replace(step, minutes=step.minutes + 30 * (k == late)) for k, step in enumerate(whole.steps))
    return replace(whole, steps=tuple(steps))


def finished(orders: int) -> float:
    """Hours of hands until all is done after five seconds, with no dates to keep, over the fewest that there can be."""
    whole = work(orders)
    free = replace(whole, orders=tuple(replace(order, due=FAR) for order in whole.orders))
    planner = Planner(free, 0)
    going, end = planner.run(), time.process_time() + 5
    while planner.best is None or time.process_time() < end:
        next(going)
    return hours(free, planner.best.end) / hours(free, bound(free))


def hours(whole: Work, until: int) -> int:
    """Minutes of hands that there are until then."""
    return sum(max(min(b, until) - a, 0) for person in whole.people for a, b in person.windows)


def _timed(deed: Callable[[], T]) -> tuple[float, T]:
    begun = time.process_time()
    found = deed()
    return time.process_time() - begun, found
