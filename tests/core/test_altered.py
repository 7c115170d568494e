"""What a maker changes of the steps that were derived: the order of the work still works."""

from __future__ import annotations

from datetime import datetime

import pytest

from tailor import demo
from tailor.core.bench.altered import OWN, REST, Altered, altered, circular
from tailor.core.bench.planner import planned
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import School
from tailor.core.bench.steps import Steps
from tailor.core.bench.work import broken
from tailor.core.errors import InputError
from tailor.core.log.opening import took
from tailor.core.shop.hands import Hand
from tailor.core.shop.orders import Order
from tailor.core.shop.progress import Progress, Stretch, Worked
from tailor.core.shop.workload import steps_of, workload

NOON = datetime(2026, 5, 4, 12, 0)  # a Monday
ORDER = Order("o", "blade").with_job(demo.job("eaves-blade"))
STEPS = steps_of(ORDER.lines[0].job, Rates(), School("water", "none"))
AT = "o/0/"


def of(key: str, **what: object) -> Altered:
    return Altered(AT + key, **what)  # type: ignore[arg-type]


def named(steps: Steps, word: str) -> str:
    return next(doing.key for doing in steps.doings if word in doing.name)


def follows(steps: Steps, key: str) -> set[str]:
    """Every step that waits for one, however far."""
    return {doing.key for doing in steps.doings if key in steps.earlier(doing.key)}


def test_another_name_and_other_minutes_stand_in_place_of_its_own() -> None:
    changed = altered(STEPS, [of("cut", name="cut with the round knife", minutes=31.0)])
    assert (changed["cut"].name, changed["cut"].whole_minutes) == ("cut with the round knife", 31)
    assert [doing.key for doing in changed.doings] == [doing.key for doing in STEPS.doings]
    assert changed.follows == STEPS.follows
    assert altered(STEPS, [of("gone", name="of a step there is no longer")]).doings == STEPS.doings


def test_what_is_left_out_is_bridged_and_its_waits_stay() -> None:
    thin = named(STEPS, "thin welt")
    without = altered(STEPS, [of(thin, dropped=True)])
    assert thin not in without
    assert follows(STEPS, "cut") - {thin} == follows(without, "cut")
    true = named(STEPS, "trim the main")
    join = named(STEPS, "join the main")
    pressed = max(f.least for f in STEPS.follows if (f.before, f.after) == (join, true))
    bridged = altered(STEPS, [of(true, dropped=True)])
    then = [f for f in bridged.follows if f.before == join]
    assert then
    assert all(f.least >= pressed for f in then)  # glue takes as long, whatever comes next


def test_at_two_goes_it_takes_as_long_and_what_followed_follows_the_second() -> None:
    sew = named(STEPS, "sew the main")
    split = altered(STEPS, [of(sew, parts=2, minutes=40.0)])
    first, second = split[sew], split[f"{REST} {sew}"]
    assert first.minutes + second.minutes == 40.0
    assert follows(split, second.key) == follows(STEPS, sew)
    assert second.key in follows(split, sew)


def test_a_maker_says_why_and_whoever_works_by_it_reads_it() -> None:
    sew = named(STEPS, "sew the main")
    own = of(f"{OWN} 1", name="line it with felt", after="cut", why="the blade rattled")
    changed = altered(STEPS, [of(sew, why="in the daylight"), of("try", after="mark", why="as grandfather did"), own])
    assert changed[sew].why == f"{STEPS[sew].why}; in the daylight"
    assert changed[own.key].why == "the blade rattled"
    reasons = {(f.before, f.after): f.why for f in changed.follows if f not in STEPS.follows}
    assert (reasons["mark", "try"], reasons["cut", own.key]) == ("as grandfather did", "the blade rattled")
    assert not of(sew, why="in the daylight").plain
    with pytest.raises(InputError, match="cannot be printed"):
        of(sew, why="bell\a")


@pytest.mark.parametrize("demo_name", ["eaves-blade", "site-book", "kit-bag"])
def test_what_cannot_be_made_up_for_is_known_with_its_last_chance(demo_name: str) -> None:
    steps = steps_of(demo.job(demo_name), Rates(), School("water", "before", thread="light"))
    glued = {doing.key for doing in steps.doings if doing.family == "glue"}
    for key in (doing.key for doing in steps.doings if doing.key.startswith("edge ") or doing.key == "hardware"):
        last = steps.last_chance(key)
        assert last is None or last.after in glued
        assert last is not None or not glued & {k for k in glued if key in steps.earlier(k)}
    assert steps.last_chance("try") is None
    dyed = steps.last_chance("dye")
    assert dyed is not None
    names = [doing.key for doing in steps.doings]
    assert names.index(dyed.after) <= min(n for n, key in enumerate(names) if key.startswith("sew "))


def test_a_step_of_ones_own_comes_where_it_is_put_and_before_the_last() -> None:
    own = of(f"{OWN} 1", name="line it with felt", minutes=15.0, after="cut")
    with_own = altered(STEPS, [own])
    assert with_own.earlier(own.key) >= {"cut", "mark"}
    assert STEPS.doings[-1].key in follows(with_own, own.key)
    assert with_own[own.key].minutes == 15.0
    assert own.key not in altered(STEPS, [of(f"{OWN} 1", dropped=True)])


def test_a_step_is_put_after_another_but_never_before_itself() -> None:
    sew, edge = named(STEPS, "sew the loop"), named(STEPS, "edge of welt")
    assert edge not in STEPS.earlier(sew)
    moved = altered(STEPS, [of(sew, after=edge)])
    assert edge in moved.earlier(sew)
    assert circular(STEPS, "mark", "cut")
    assert not circular(STEPS, "cut", "mark")
    assert altered(STEPS, [of("mark", after="cut")]).follows == STEPS.follows  # what cannot be is let be


@pytest.mark.parametrize("name", ["eaves-blade", "radio", "laser-level", "crew-cards"])
def test_whatever_is_changed_can_be_planned_and_holds(name: str) -> None:
    job = demo.job(name)
    order = Order("o", name).with_job(job)
    plain = steps_of(job, Rates(), School("solvent", "after"))
    keys = [doing.key for doing in plain.doings]
    changes = [of(key, dropped=True) for key in keys[3:-1:5]]
    changes += [of(key, parts=2) for key in keys[4:-1:5]]
    changes += [of(key, minutes=7.0, name=f"{key}, my way") for key in keys[1:-1:5]]
    changes += [of(f"{OWN} {n}", after=key) for n, key in enumerate(keys[1:-1:6])]
    load = workload([order], [Hand("me", "me")], Rates(), School("solvent", "after"), NOON, changes=changes)
    plan, _ = planned(load.work, 1, 0.5)
    assert list(broken(load.work, plan)) == []
    there = {task.doing.key for task in load.tasks.values()}
    assert there == {doing.key for doing in altered(plain, changes).doings}
    assert not {change.key for change in changes if change.dropped} & there


def test_what_is_done_of_a_split_step_counts_for_its_rate() -> None:
    at = datetime(2026, 5, 4, 18, 0)
    sew = named(STEPS, "sew the main")
    done = [
        Worked(f"o/0/0/{key}", "o", "blade", key, "", 10.0, "me", (Stretch(at, at),), True, 15.0)
        for key in (sew, f"{REST} {sew}")
    ]
    (one,) = took(done, Rates())
    assert (one.rate, one.minutes, one.usual) == ("rate.sewn", 30.0, 20.0)
    load = workload([ORDER], [Hand("me", "me")], Rates(), School(), NOON, progress=Progress(done[:1]),
                    changes=[of(sew, parts=2)])  # fmt: skip
    left = {step.id for step in load.work.steps}
    assert f"o/0/0/{REST} {sew}" in left
    assert f"o/0/0/{sew}" not in left


@pytest.mark.parametrize(
    ("what", "said"), [({"minutes": 0.0}, "minutes"), ({"minutes": 5000.0}, "minutes"), ({"parts": 3}, "parts"),
                       ({"name": "a\nb"}, "letters")],
)  # fmt: skip
def test_what_cannot_be_is_said(what: dict[str, object], said: str) -> None:
    with pytest.raises(InputError, match=said):
        of("cut", **what)
