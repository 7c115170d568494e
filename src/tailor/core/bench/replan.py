"""Planning anew after a slip: in the order it was, or with as few steps moved as can be; the maker takes one."""

from __future__ import annotations

from collections.abc import Sequence

from tailor.core.bench.hours import Hours, NoRoomError
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR, Plan, Spell, Work


def in_order(work: Work, before: Plan) -> Plan | None:
    """A plan of what is left by the order that a plan before was made in, all of it as early as may be; None where the
    hours do not do.
    """
    try:
        return Serial(work).plan(ranks(work, before), before.patience, before.like)
    except NoRoomError:
        return None


def ranks(work: Work, before: Plan) -> list[float]:
    """What went before what in a plan before. What is new goes with the rest of its order; a new order last."""
    were = before.ranks or {id_: float(spells[0].start) for id_, spells in before.steps.items()}
    first = dict[str, float]()
    for step in work.steps:
        if step.id in were:
            first[step.order] = min(first.get(step.order, FAR), were[step.id])
    return [were.get(step.id, first.get(step.order, FAR)) for step in work.steps]


def few_moves(work: Work, before: Plan) -> Plan | None:
    """A plan of what is left in which as few steps as can be begin at another time than in a plan before; None where
    the hours do not do.

    All that can stays where it was. What cannot, with what is tied to it, is put where there is room next; what waits
    for it and begins too soon then gives way in its turn, and nothing else does.
    """
    serial = Serial(work)
    began = {k: before.steps[step.id] for k, step in enumerate(work.steps) if step.id in before.steps}
    rank = ranks(work, before)
    priority = [float(began[k][0].start) if k in began else at for k, at in enumerate(rank)]
    priority = serial.pressing_first(priority)
    hours = Hours(work, serial.ties, before.patience)
    for family, spell in _set_ups(hours, before, began):
        hours.set_up(family, spell)
    kept = {g for g, members in enumerate(serial.members) if _kept(hours, members, began)}
    for g in serial.groups(priority):
        members = serial.members[g]
        if g in kept:
            if all(_follows(hours, k) for k in members):
                continue
            for k in reversed(members):  # they follow one another
                hours.let_go(k)
        try:
            stays = {k: began[k][0].start for k in members if k in began and not work.steps[k].first}
            serial.put(hours, g, priority, stays)
        except NoRoomError:
            return None
    return hours.plan


def _set_ups(hours: Hours, before: Plan, began: dict[int, tuple[Spell, ...]]) -> list[tuple[str, Spell]]:
    """The set-ups that what is left of a plan before has use for."""
    steps = hours.work.steps
    used = {(steps[k].family, hours.window(spell)) for k, spells in began.items() for spell in spells}
    return [(family, spell) for family, spell in before.setups if (family, hours.window(spell)) in used]


def _kept(hours: Hours, members: Sequence[int], began: dict[int, tuple[Spell, ...]]) -> bool:
    """Whether all of a group stay where they were; else none of them lies there."""
    mark = len(hours.undo)
    for k in members:
        if k not in began or hours.work.steps[k].first or not hours.keep(k, began[k]):
            hours.back(mark)
            return False
    return True


def _follows(hours: Hours, k: int) -> bool:
    """Whether a step that stayed comes neither too soon nor too late after what it waits for."""
    return hours.done[k][0].start >= hours.low(k) and hours.late(k) is None


def moved(plan: Plan, before: Plan) -> list[str]:
    """The steps that begin at another time than in a plan before, or are done by somebody else."""

    def begun(spells: Sequence[Spell]) -> tuple[int, str]:
        return spells[0].start, spells[0].person

    there = before.steps
    return [id_ for id_, spells in plan.steps.items() if id_ in there and begun(spells) != begun(there[id_])]
