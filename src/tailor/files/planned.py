"""Problems of planning and their answers, as JSON. Described in docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from tailor.core import incoming
from tailor.core.bench.work import Order, Person, Plan, Step, Wait, Work
from tailor.core.errors import InputError, shown
from tailor.core.shop.workload import Workload
from tailor.files import problems

PROBLEM, ANSWER = "tailor-plan-problem/1", "tailor-plan/1"
LAST = 10**8  # minutes from the beginning, that anything may lie
MOST_STEPS = 20_000

Minute = Annotated[int, Field(ge=0, le=LAST)]
Named = Annotated[str, Field(min_length=1, max_length=incoming.NAME)]
Counts = Annotated[dict[Named, Annotated[int, Field(ge=0, le=100_000)]], Field(max_length=1000)]


class _Entry(BaseModel):
    model_config = ConfigDict(extra="ignore", populate_by_name=True)  # a problem may say more than is needed here


class PersonEntry(_Entry):
    """Somebody with hands, and when they work."""

    id: Named
    windows: Annotated[list[tuple[Minute, Minute]], Field(max_length=5000)]


class OrderEntry(_Entry):
    """What is wanted, and by when."""

    id: Named
    item: str = ""
    weight: Annotated[float, Field(ge=0, le=1e6)] = 1.0
    due: Minute = LAST


class StepEntry(_Entry):
    """Work of hands."""

    id: Named
    order: Named
    name: str = ""
    dur: Minute
    family: str | None = None
    machine: str | None = None
    min_chunk: Minute | None = None


class LagEntry(_Entry):
    """One step after another, no sooner and perhaps no later."""

    from_: Annotated[Named, Field(alias="from")]
    to: Named
    min: Minute = 0
    max: Minute | None = None
    place: str | None = None
    hold: bool = False


class ProblemEntry(_Entry):
    """What is to be planned."""

    format: Literal["tailor-plan-problem/1"]
    people: Annotated[list[PersonEntry], Field(min_length=1, max_length=200)]
    orders: Annotated[list[OrderEntry], Field(max_length=2000)]
    steps: Annotated[list[StepEntry], Field(max_length=MOST_STEPS)]
    lags: Annotated[list[LagEntry], Field(max_length=5 * MOST_STEPS)] = []
    machines: Counts = {}
    places: Counts = {}
    families: Counts = {}


def problem(path: Path) -> Work:
    """The problem in a file. Raises InputError saying what in it cannot be used, and where."""
    return _sound(problems.read(path, PROBLEM, "planning", ProblemEntry), path.name)


def _sound(entry: ProblemEntry, where: str) -> Work:
    """A work whose names are told apart and there, and whose hours are hours. Raises InputError."""
    for what, items in (("person", entry.people), ("order", entry.orders), ("step", entry.steps)):
        seen = set[str]()
        for item in items:
            if item.id in seen:
                raise InputError(f"two are called {item.id}", f"{where}, {what}", "give each an id of its own")
            seen.add(item.id)
    orders, steps = {order.id for order in entry.orders}, {step.id for step in entry.steps}
    for step in entry.steps:
        _there(step.order, orders, "order", f"{where}, step {step.id}")
        _there(step.family, entry.families, "family", f"{where}, step {step.id}")
        _there(step.machine, entry.machines, "machine", f"{where}, step {step.id}")
    for lag in entry.lags:
        at = f"{where}, the wait from {lag.from_} to {lag.to}"
        _there(lag.from_, steps, "step", at)
        _there(lag.to, steps, "step", at)
        _there(lag.place, entry.places, "place", at)
        if lag.max is not None and lag.max < lag.min:
            raise InputError(f"it may be {lag.max} minutes, and must be {lag.min}", at, "mend one of them")
    return Work(
        tuple(Person(p.id, _hours(p, where)) for p in entry.people),
        tuple(Order(o.id, o.item, o.weight, o.due) for o in entry.orders),
        tuple(
            Step(s.id, s.order, s.name, s.dur, s.family or "", s.machine or "", s.min_chunk or 0) for s in entry.steps
        ),
        tuple(Wait(g.from_, g.to, g.min, g.max, g.place or "", g.hold) for g in entry.lags),
        entry.machines, entry.places, entry.families,
    )  # fmt: skip


def _there(name: str | None, those: Any, what: str, where: str) -> None:
    if name and name not in those:
        raise InputError(f"there is no {what} called '{shown(name, incoming.SHOWN)}'", where, "name one that there is")


def _hours(person: PersonEntry, where: str) -> tuple[tuple[int, int], ...]:
    """A person's windows in order. Raises InputError where one ends before it begins, or two overlap."""
    rows: Sequence[tuple[int, int]] = sorted(person.windows)
    at = 0
    for a, b in rows:
        if b <= a or a < at:
            raise InputError(f"the hours from {a} to {b} end before they begin, or lie over others",
                             f"{where}, person {person.id}", "mend them")  # fmt: skip
        at = b
    return tuple(rows)


def plain(work: Work, plan: Plan, tried: int) -> dict[str, Any]:
    """A plan, as JSON can hold it."""
    return {
        "format": ANSWER,
        "cost": plan.cost(work),
        "end": plan.end,
        "late": {id_: by for id_, by in plan.late(work).items() if by},
        "plans": tried,
        "steps": {id_: [[s.person, s.start, s.end] for s in spells] for id_, spells in plan.steps.items()},
        "setups": [[family, s.person, s.start, s.end] for family, s in plan.setups],
    }


def told(load: Workload) -> dict[str, dict[str, Any]]:
    """What each step of a shop's plan is, by its id."""
    return {
        id_: {
            "order": task.order.name, "thing": task.thing, "name": task.doing.name, "pieces": list(task.doing.pieces),
            "minutes": round(task.doing.minutes, 2), "why": task.doing.why, "look": task.doing.look,
            "caution": task.doing.caution,
        }
        for id_, task in load.tasks.items()
    }  # fmt: skip


def to_text(work: Work, plan: Plan, tried: int) -> str:
    """A plan as the text of its file."""
    return json.dumps(plain(work, plan, tried), indent=1, ensure_ascii=False) + "\n"
