"""The command `tailor plan`: orders of the shop, or a problem in a file, put into the hours there are."""

from __future__ import annotations

import argparse
import json
from datetime import datetime
from pathlib import Path
from typing import TYPE_CHECKING, Any

from tailor.core import incoming
from tailor.core.bench.schools import QUESTIONS
from tailor.core.errors import InputError
from tailor.laying import positive

if TYPE_CHECKING:
    from tailor.core.bench.rates import Rates
    from tailor.core.bench.schools import School
    from tailor.core.bench.steps import Steps
    from tailor.core.job import Job

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
DAY = 24 * 60


def add(commands: Any) -> None:
    """Add the command to the others."""
    plan = commands.add_parser("plan", help="put orders, or steps of work, into the hours there are")
    plan.add_argument("--problem", type=Path, metavar="FILE.json", help="what is to be planned")
    plan.add_argument(
        "--order", action="append", default=[], metavar="NAME", help="an order of the shop; again for more"
    )
    plan.add_argument("--orders", action="store_true", help="every order of the shop that is still to be made")
    plan.add_argument("--book", type=Path, metavar="FILE", help="the shop book, if not where it usually lies")
    plan.add_argument("--now", type=moment, metavar="YYYY-MM-DDTHH:MM", help="when work can begin; else now")
    for question, those in QUESTIONS.items():
        plan.add_argument(f"--{question}", help=f"the school of {question}, if not the shop's: {', '.join(those)}")
    plan.add_argument("--ics", type=Path, metavar="FILE.ics", help="write the hours as a calendar too")
    plan.add_argument("--cards", type=Path, metavar="FILE", help="write cards (.pdf) or the steps (.csv) too")
    plan.add_argument("-o", dest="out", required=True, type=Path, metavar="OUT.json")
    plan.add_argument("--seconds", type=positive, default=5.0, help="of work at the most")
    plan.add_argument("--plans", type=int, help="made at the most: the same and the same seed give the same plan")
    plan.add_argument("--seed", type=int, default=0, help="where the row of chances begins")
    plan.add_argument("--json", action="store_true", help="print the plan as JSON too")
    plan.set_defaults(run=_plan)


def _plan(arguments: argparse.Namespace) -> int:
    from tailor.core.bench.planner import planned
    from tailor.files import atomic
    from tailor.files import planned as files

    if arguments.problem is None:
        return _plan_orders(arguments)
    if arguments.order or arguments.orders:
        raise InputError("a problem and orders are both given", "tailor plan", "give one of them")
    work = files.problem(arguments.problem)
    plan, tried = planned(work, arguments.seed % 2**32, arguments.seconds, arguments.plans)
    atomic.write(arguments.out, files.to_text(work, plan, tried).encode())
    if arguments.json:
        print(json.dumps(files.plain(work, plan, tried), ensure_ascii=False))
        return 0
    late = plan.late(work)
    for order in work.orders:
        ends = [plan.steps[step.id][-1].end for step in work.steps if step.order == order.id]
        by = f", {late[order.id] / 60:.1f} h late" if late[order.id] else ""
        print(f"{order.id} {order.item}: ready {told(max(ends, default=0))}{by}")
    return 0


def _plan_orders(arguments: argparse.Namespace) -> int:
    """Orders of the shop, from now on, in the hours of those who work there."""
    from tailor.core.bench.planner import planned
    from tailor.core.bench.schools import QUESTIONS, School
    from tailor.core.shop.progress import Progress
    from tailor.core.shop.workload import by_day, steps_of, workload
    from tailor.files import atomic, bench_card, calendar
    from tailor.files import planned as files
    from tailor.files.shop_book.book import Book

    if bool(arguments.order) == arguments.orders:
        raise InputError(
            "orders or a problem are wanted", "tailor plan", "give --order NAME, --orders or --problem FILE"
        )
    shop = Book.usual(arguments.book).shop()
    named = tuple(shop.order(name) for name in arguments.order)
    orders = named or tuple(order for order in shop.orders if order.open)
    school = School(**{each: getattr(arguments, each) or getattr(shop.school, each) for each in QUESTIONS})
    progress, now = Progress(shop.worked), arguments.now or datetime.now()

    def steps(job: Job, rates: Rates, school: School) -> Steps:
        return steps_of(job.by(arguments.maker), rates, school)

    load = workload(orders, shop.at_work, shop.rates, school, now, steps, progress, changes=shop.altered)
    if not load.work.steps:
        said = "every step of it is done" if load.tasks else "nothing is ordered that is still to be made"
        raise InputError(said, "tailor plan", "name an order that is not ready yet")
    plan, tried = planned(load.work, arguments.seed % 2**32, arguments.seconds, arguments.plans)
    plain = {**files.plain(load.work, plan, tried), "monday": str(load.monday), "what": files.told(load)}
    atomic.write(arguments.out, (json.dumps(plain, indent=1, ensure_ascii=False) + "\n").encode())
    if arguments.ics is not None:
        atomic.write(arguments.ics, calendar.to_bytes(load, plan))
    if arguments.cards is not None:
        bench_card.write(load, plan, progress, arguments.cards)
    if arguments.json:
        print(json.dumps(plain, ensure_ascii=False))
        return 0
    for one in load.missed:
        task = load.tasks[one.first]
        print(f"{task.doing.name} ({task.thing}) dried at {one.at:%H:%M} before it was joined: it is to be done again")
    for day, spells in by_day(load, plan):
        print(f"{day:%A, %d %B}")
        for begin, end, who, task in spells:
            print(f"  {begin:%H:%M} to {end:%H:%M}  {who}: {task.doing.name} ({task.thing})")
    for order in orders:
        if (ready := load.ready(plan).get(order.id)) is not None:
            late = " – late" if order.due is not None and ready.date() > order.due else ""
            due = f", wanted by {order.due}" if order.due else ""
            print(f"{order.name}: ready {ready:%A, %d %B at %H:%M}{due}{late}")
    return 0


def moment(text: str) -> datetime:
    """A day and a time of day as they were typed."""
    try:
        return datetime.fromisoformat(text).replace(tzinfo=None)
    except ValueError:
        said = f"{incoming.quoted(text)} is no moment; give one such as 2026-04-30T18:00"
        raise argparse.ArgumentTypeError(said) from None


def told(minute: int) -> str:
    """A minute as a day and a time of day, weeks counted from the first."""
    days, rest = divmod(minute, DAY)
    week = f" of week {days // 7 + 1}" if days >= 7 else ""
    return f"{DAYS[days % 7]}{week} at {rest // 60:02d}:{rest % 60:02d}"
