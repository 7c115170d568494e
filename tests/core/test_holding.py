"""What holds a plan where it is: worked by hand, and held against plans in which that gives way."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime

import pytest

from tailor import demo
from tailor.core.bench.holding import Hold, chain, link
from tailor.core.bench.planner import planned
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.work import Order, Person, Plan, Spell, Step, Wait, Work
from tailor.core.shop.hands import Hand
from tailor.core.shop.orders import Order as Ordered
from tailor.core.shop.orders import State
from tailor.core.shop.shop import Shop
from tailor.core.shop.sooner import sooner, ways
from tailor.core.shop.workload import Workload, workload

EVENINGS = tuple((day * 1440 + 1080, day * 1440 + 1260) for day in range(5))  # 18 to 21
STEPS = (Step("mark", "o", "mark", 30), Step("glue", "o", "glue", 20, "glue"), Step("sew", "o", "sew", 60),
         Step("other", "p", "other", 40))  # fmt: skip
WORK = Work((Person("me", EVENINGS),), (Order("o"), Order("p")), STEPS,
            (Wait("mark", "glue"), Wait("glue", "sew", least=90)), families={"glue": 5})  # fmt: skip


def at(start: int, minutes: int) -> tuple[Spell, ...]:
    return (Spell("me", 1080 + start, 1080 + start + minutes),)


PLAN = Plan({"mark": at(0, 30), "glue": at(35, 20), "other": at(55, 40), "sew": at(1440, 60)},
            (("glue", Spell("me", 1110, 1115)),))  # fmt: skip


def test_what_holds_each_is_told_as_a_maker_would() -> None:
    assert link(WORK, PLAN, "mark").by is Hold.OPENING  # nothing comes before the hours
    glue = link(WORK, PLAN, "glue")
    assert (glue.by, glue.before) == (Hold.WAIT, "mark")  # which had to be set up for first
    assert (link(WORK, PLAN, "other").by, link(WORK, PLAN, "other").before) == (Hold.HANDS, "glue")
    sew = link(WORK, PLAN, "sew")
    assert (sew.by, sew.before, sew.free) == (Hold.ROOM, "glue", 1080 + 145)  # dry at 20:25: too late for an hour of it
    dries = replace(WORK, waits=(Wait("mark", "glue"), Wait("glue", "sew", least=300)))
    sew = link(dries, PLAN, "sew")
    assert (sew.by, sew.before) == (Hold.WAIT, "glue")  # over night, and then hands begin
    assert [each.id for each in chain(dries, PLAN, "o")] == ["sew", "glue", "mark"]
    assert chain(WORK, PLAN, "nobody's") == []


@pytest.mark.parametrize("names", [("eaves-blade",), ("radio", "whetstone"), ("crew-cards", "eaves-blade")])
def test_a_chain_goes_back_to_the_beginning_and_nothing_of_it_could_be_sooner(names: tuple[str, ...]) -> None:
    now = datetime(2026, 5, 4, 12, 0)
    orders = [Ordered(name, name).with_job(demo.job(name)) for name in names]
    load = workload(orders, [Hand("me", "me")], Rates(), School("water", "after"), now)
    plan, _ = planned(load.work, 1, 0.6)
    for order in names:
        links = chain(load.work, plan, order)
        assert plan.steps[links[0].id][-1].end == max(
            plan.steps[step.id][-1].end for step in load.work.steps if step.order == order
        )
        assert links[-1].by in (Hold.OPENING, Hold.ROOM)
        assert not links[-1].before
        waits = {(wait.from_, wait.to): wait.least for wait in load.work.waits}
        for one in links:
            assert one.begins == plan.steps[one.id][0].start
            assert one.free <= one.begins
            if one.by is Hold.WAIT:
                assert one.free == plan.steps[one.before][-1].end + waits[one.before, one.id]
            if one.by is Hold.HANDS:
                assert one.free in [spell.end for spell in plan.steps[one.before]]
            if one.by is not Hold.ROOM:  # between what it was free of and its beginning nobody was at the bench
                idle = [(a, b) for a, b in load.work.people[0].windows if min(b, one.begins) > max(a, one.free)]
                setups = [spell for _, spell in plan.setups if spell.end == one.begins]
                assert sum(min(b, one.begins) - max(a, one.free) for a, b in idle) <= sum(
                    spell.end - spell.start for spell in setups
                )


# What would make it sooner


def test_what_would_make_an_order_sooner_is_tried_and_told() -> None:
    now = datetime(2026, 5, 4, 12, 0)
    orders = tuple(Ordered(name, name, state=State.TAKEN).with_job(demo.job(name)) for name in ("radio", "eaves-blade"))
    shop = Shop(orders=orders, hands=(Hand("me", "me"),))

    def loads(other: Shop) -> Workload:
        return workload(other.orders, other.at_work, other.rates, other.school, now)

    told = {one.said: one.ready for one in sooner(shop, "radio", loads) if one is not None}
    assert set(told) == {said for said, _ in ways(shop, "radio")}
    assert all(ready is not None for ready in told.values())
    now_ = told["planned anew, with nothing else changed"]
    assert now_ is not None
    for said in ("with another pair of hands in your hours", "before everything else"):
        at = told[said]
        assert at is not None
        assert at <= now_
    assert shop.orders == orders  # nothing is changed by asking


def test_longer_hours_stay_apart_and_within_their_day() -> None:
    hand = Hand("me", "me", ((0, 600, 700), (0, 710, 800), (1, 1200, 1430), (5, 540, 780)))
    by = dict(ways(Shop(hands=(hand,)), "o"))
    longer = by["with 30 minutes more each time"].hands[0].hours
    assert longer == ((0, 600, 710), (0, 710, 830), (1, 1200, 1440), (5, 540, 810))
    assert "with Saturday mornings too" not in by  # there are some
    assert "before everything else" not in by  # there is nothing else
    assert len(by["with another pair of hands in your hours"].hands) == 2
    assert {shop.school.glue for said, shop in by.items() if "glue" in said} == {"solvent", "pva"}
