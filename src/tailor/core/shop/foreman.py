"""The planning process: python -m tailor.core.shop.foreman FD, on a line to the window that asks.

What was ordered is drafted once; its steps are planned in every way there is, each plan is sent as soon as it is
found, and at last how sure the dates are. Whatever is asked next ends what is under way.
"""

from __future__ import annotations

import sys
import time
import traceback
from collections.abc import Iterator
from dataclasses import replace
from multiprocessing.connection import Connection

import numpy as np

from tailor.core import apart
from tailor.core.bench.chance import TIMES, Spread, in_time, ready
from tailor.core.bench.derived import derived
from tailor.core.bench.planner import Planner
from tailor.core.bench.rates import Rates
from tailor.core.bench.replan import fewer_moves, in_order, moved
from tailor.core.bench.schools import School
from tailor.core.bench.steps import Steps
from tailor.core.bench.work import Plan
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.shop.agenda import Agenda, Answer, Drafting, NoPlan, Planned, Seen, Sure, Wanted, Way
from tailor.core.shop.closing import pictures
from tailor.core.shop.drafts import Drafts
from tailor.core.shop.drawn import drawn
from tailor.core.shop.hands import DAY
from tailor.core.shop.orders import Line, Order
from tailor.core.shop.paces import spread_of
from tailor.core.shop.progress import Progress
from tailor.core.shop.shop import Shop
from tailor.core.shop.sooner import sooner
from tailor.core.shop.workload import Workload, workload

OFTEN = 0.25  # s between two plans that are sent
BREATH = 20  # samples of chance between two that are sent


def plan_on(line: Connection) -> None:
    """Plan what is asked, each time with its number, until the window hangs up; None ends a row."""
    drafts = Drafts()
    while True:
        try:
            number, wanted = line.recv()
            try:
                for found in planned(wanted, drafts):
                    if found is not None:
                        line.send((number, found))
                    if line.poll():
                        break  # something else is wanted
            except InputError as error:
                line.send((number, NoPlan(str(error))))
            except (EOFError, OSError):
                return
            except Exception as fault:  # a fault of ours must not leave the window waiting for ever
                traceback.print_exc()
                line.send((number, NoPlan(f"Tailor itself is at fault ({type(fault).__name__}).")))
            line.send((number, None))
        except (EOFError, OSError):
            return


def planned(wanted: Wanted, drafts: Drafts) -> Iterator[Answer | None]:
    """All that is answered, one after another; None where there is nothing new, to look up from the work.

    Raises InputError where nothing can be planned.
    """
    shop, orders, refused = wanted.shop, list[Order](), list[str]()
    seen, mades = dict[str, tuple[Seen, ...]](), dict[int, Draft]()
    waiting = [order for order in shop.orders if order.open]
    many = sum(len(order.lines) for order in waiting)
    for order in waiting:
        lines = list[Line]()
        for line in order.lines:
            said = f"drafting {line.job.name} ({len(seen) + len(refused) + 1} of {many})"
            yield None if wanted.closing else Drafting(said)
            try:
                made = drafts.made(line, wanted.maker).draft
            except InputError as error:
                refused.append(f"{line.job.name}: {error}")
                continue
            mades[id(line.job)] = made
            seen[f"{order.id}/{line.mark}"] = drawn(made.pieces)
            lines.append(line)
        orders.append(replace(order, lines=tuple(lines)))

    def steps(job: Job, rates: Rates, school: School) -> Steps:
        return derived(mades[id(job)], rates, school, {zone.kind for zone in job.zones}, wanted.maker)

    def loads(shop: Shop) -> Workload:
        open_ = [order for order in orders if order.id in {each.id for each in shop.orders}]
        return workload(open_, shop.at_work, shop.rates, shop.school, wanted.now, steps, Progress(shop.worked),
                        shop.altered)  # fmt: skip

    if wanted.sooner:
        yield from sooner(shop, wanted.sooner, loads)
        return
    load = loads(shop)
    if wanted.closing:
        at = next((at for at in load.things if at.startswith(f"{wanted.closing}/")), "")
        jobs = [line.job for order in orders for line in order.lines if f"{order.id}/{line.mark}" == wanted.closing]
        if at and jobs:
            yield from pictures(wanted.closing, mades[id(jobs[0])], load.things[at], wanted.dyes)
        return
    yield Agenda(load, seen, tuple(refused))
    if load.work.steps:
        yield from _ways(wanted, load)


def _ways(wanted: Wanted, load: Workload) -> Iterator[Answer | None]:
    """Every way of planning, and how sure its dates are; where nothing was planned before, there is but one."""
    work, before, plans = load.work, wanted.before, dict[Way, Plan]()
    if before is not None:
        before = before.later(DAY * ((wanted.counted or load.monday) - load.monday).days)
        for way, tried in ((Way.ORDER, [in_order(work, before)]), (Way.FEW, fewer_moves(work, before))):
            for plan in tried:
                if plan is None or plan is plans.get(way):
                    yield None
                    continue
                plans[way] = plan
                yield Planned(way, plan, len(moved(plan, before)))
    planner = Planner(work)
    end, told, cost = time.process_time() + wanted.seconds, 0.0, np.inf
    for _ in planner.run():
        now = time.monotonic()
        if planner.best is not None and planner.cost < cost and now - told > OFTEN:
            told, cost = now, planner.cost
            yield Planned(Way.ANEW, planner.best, 0 if before is None else len(moved(planner.best, before)))
        else:
            yield None
        if planner.best is not None and time.process_time() >= end:
            break
    assert planner.best is not None
    plans[Way.ANEW] = planner.best
    yield Planned(Way.ANEW, planner.best, 0 if before is None else len(moved(planner.best, before)))
    for way, plan in plans.items():
        yield from _sure(way, load, plan, spread_of(wanted.shop.worked))


def _sure(way: Way, load: Workload, plan: Plan, spread: Spread) -> Iterator[Answer | None]:
    times = list[Array]()
    for found in ready(load.work, plan, spread=spread):
        times.append(found)
        yield None
        if len(times) >= TIMES:
            break
    yield Sure(way, in_time(load.work, np.array(times)))


if __name__ == "__main__":
    apart.settle_in()
    plan_on(Connection(int(sys.argv[1])))
