"""The command `tailor plan`: a problem in a file, put into the hours there are."""

from __future__ import annotations

import argparse
import json
from pathlib import Path
from typing import Any

from tailor.laying import positive

DAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")
DAY = 24 * 60


def add(commands: Any) -> None:
    """Add the command to the others."""
    plan = commands.add_parser("plan", help="put steps of work into the hours there are")
    plan.add_argument("--problem", required=True, type=Path, metavar="FILE.json", help="what is to be planned")
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


def told(minute: int) -> str:
    """A minute as a day and a time of day, weeks counted from the first."""
    days, rest = divmod(minute, DAY)
    week = f" of week {days // 7 + 1}" if days >= 7 else ""
    return f"{DAYS[days % 7]}{week} at {rest // 60:02d}:{rest % 60:02d}"
