"""Plans after a slip, dates with their chances, and what was begun, interrupted, or done in another order."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime, timedelta
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor import demo
from tailor.core.bench.chance import Spread, in_time, ready
from tailor.core.bench.planner import planned
from tailor.core.bench.rates import Rates
from tailor.core.bench.replan import few_moves, in_order, moved
from tailor.core.bench.schools import School
from tailor.core.bench.serial import Serial
from tailor.core.bench.steps import Doing, Steps
from tailor.core.bench.work import FAR, Order, Person, Plan, Spell, Step, Wait, Work, broken
from tailor.core.bench.working import worked
from tailor.core.errors import InputError
from tailor.core.shop import orders as shop_orders
from tailor.core.shop.hands import Hand
from tailor.core.shop.progress import Progress, Stands, Worked
from tailor.core.shop.workload import Workload, workload
from tests.core.test_planned import EVENINGS, minute_by_minute, work
from tests.sweeps import about

MONDAY = datetime(2026, 5, 4, 18, 0)


def slipped(asked: Work, plan: Plan, now: int, minutes: int) -> Work:
    """What is left at a time, when the step that is next takes so much longer; history binds it."""
    done = {id_: spells for id_, spells in plan.steps.items() if spells[-1].end <= now}
    left = [step for step in asked.steps if step.id not in done]
    longest = min(left, key=lambda step: plan.steps[step.id][0].start)
    steps, taken = list[Step](), dict[str, list[tuple[int, int]]]()
    for step in left:
        bounds = [(done[w.from_][-1].end + w.least, FAR if w.most is None else done[w.from_][-1].end + w.most)
                  for w in asked.waits if w.to == step.id and w.from_ in done]  # fmt: skip
        by = min((b for _, b in bounds), default=FAR)
        steps.append(replace(step, minutes=step.minutes + (minutes if step is longest else 0), first=by < FAR, by=by,
                             after=max((a for a, _ in bounds), default=-FAR)))  # fmt: skip
    for wait in asked.waits:
        if wait.place and wait.from_ in done:
            end = done[wait.from_][-1].end
            until = plan.steps[wait.to][0].start if wait.held else end + wait.least
            if until > now:
                taken.setdefault(wait.place, []).append((end, until))
    people = tuple(Person(p.id, tuple((max(a, now), b) for a, b in p.windows if b > now)) for p in asked.people)
    ready_ = {(s.person, family) for p in asked.people for a, b in p.windows if a <= now < b
              for family, s in plan.setups if a <= s.start and s.end <= now}  # fmt: skip
    waits = tuple(w for w in asked.waits if w.from_ not in done and w.to not in done)
    return replace(asked, people=people, steps=tuple(steps), waits=waits, ready=frozenset(ready_),
                   taken={place: tuple(spans) for place, spans in taken.items()})  # fmt: skip


@settings(max_examples=about(60), deadline=None)
@given(st.integers(0, 10**6), st.floats(0.05, 0.95), st.integers(0, 120))
def test_after_a_slip_few_steps_are_moved_and_all_holds(seed: int, share: float, minutes: int) -> None:
    asked = work(seed, 2 + seed % 4)
    plan, _ = planned(asked, seed, None, 25)
    left = slipped(asked, plan, int(1080 + share * (plan.end - 1080)), minutes)
    few, same = few_moves(left, plan), in_order(left, plan)
    for found in (few, same):
        if found is not None:
            assert not list(broken(left, found))
    try:
        anew, _ = planned(left, seed, None, 30)
    except InputError as error:
        said = str(error)  # a join that cannot be in time any more
    else:
        said = ""
        assert not list(broken(left, anew))
    if said:
        assert any(said.startswith(f"step {step.id}, ") for step in left.steps)
        return
    assert few is not None or same is not None
    if few is not None and same is not None and not left.taken:
        assert len(moved(few, plan)) <= max(len(moved(same, plan)), 12)


@pytest.mark.parametrize("seed", range(4))
def test_where_nothing_slips_nothing_is_moved(seed: int) -> None:
    asked = work(seed, 4)
    plan, _ = planned(asked, seed, None, 40)
    for again in (few_moves(asked, plan), in_order(asked, plan)):
        assert again is not None
        assert moved(again, plan) == []
        minute_by_minute(asked, again)


def test_only_what_hangs_on_the_late_step_gives_way() -> None:
    """Two chains by turns on one bench: the one that slips is put off into the free evening, the other stays."""
    names = ("a1", "b1", "a2", "b2", "a3", "b3")
    steps = tuple(Step(name, name[0], name, 60) for name in names)
    waits = tuple(Wait(f"{c}{n}", f"{c}{n + 1}") for c in "ab" for n in (1, 2))
    asked = Work((Person("A", EVENINGS[:5]),), (Order("a"), Order("b")), steps, waits)
    at = dict(zip(names, (1080, 1140, 1200, 2520, 2580, 2640), strict=True))
    plan = Plan({name: (Spell("A", start, start + 60),) for name, start in at.items()})
    late = replace(asked, steps=tuple(replace(s, minutes=100) if s.id == "a1" else s for s in steps))
    few = few_moves(late, plan)
    assert few is not None
    assert set(moved(few, plan)) == {"a1", "a2", "a3"}
    assert not list(broken(late, few))


@pytest.mark.parametrize("seed", range(6))
def test_who_has_time_to_spare_gives_way_to_whom_many_follow(seed: int) -> None:
    """Evenings full to the brim: pushed on, the late step would take all that follows it to the end; nothing waits for
    what lies beside it.
    """
    rng = np.random.default_rng(seed)
    pace = int(rng.choice([30, 36, 45]))
    each = 180 // pace
    row = [("a", n) for n in range(8)]
    steps, at, names = list[Step](), dict[str, tuple[Spell, ...]](), iter("bcdefghijklmnopqrstuvwxyz" * 4)
    for day in range(8):
        for slot in range(each):
            order, n = row[day] if slot == 0 else (next(names) + str(day), 0)
            steps.append(Step(f"{order}.{n}", order, "", pace))
            at[steps[-1].id] = (Spell("A", day * 1440 + 1080 + slot * pace, day * 1440 + 1080 + (slot + 1) * pace),)
    waits = tuple(Wait(f"a.{n}", f"a.{n + 1}") for n in range(7))
    asked = Work(
        (Person("A", EVENINGS[:20]),), tuple(Order(o) for o in {s.order: 0 for s in steps}), tuple(steps), waits
    )
    plan, slot = Plan(at), int(rng.integers(0, 5))
    late = replace(asked, steps=tuple(replace(s, minutes=2 * pace) if s.id == f"a.{slot}" else s for s in steps))
    few = few_moves(late, plan)
    assert few is not None
    minute_by_minute(late, few)
    assert len(moved(few, plan)) == 1


def test_what_is_wanted_soon_does_not_give_way_to_what_can_wait() -> None:
    """Beside the late step lies what is wanted that evening, and then what is not; nothing waits for either."""
    chain, beside = [f"a{n}" for n in range(6)], [f"b{n}" for n in range(6)] + [f"c{n}" for n in range(6)]
    steps = tuple(Step(id_, id_[0] if id_[0] == "a" else id_, "", 60) for id_ in chain + beside)
    orders = (
        Order("a"),
        *(Order(id_, due=n % 6 * 1440 + 1260 if id_[0] == "b" else FAR) for n, id_ in enumerate(beside)),
    )
    waits = tuple(Wait(one, then) for one, then in pairwise(chain))
    asked = Work((Person("A", EVENINGS[:12]),), orders, steps, waits)
    plan = Plan({f"{order}{day}": (Spell("A", day * 1440 + 1080 + 60 * n, day * 1440 + 1140 + 60 * n),)
                 for n, order in enumerate("abc") for day in range(6)})  # fmt: skip
    late = replace(asked, steps=tuple(replace(step, minutes=120) if step.id == "a1" else step for step in steps))
    few = few_moves(late, plan)
    assert few is not None
    minute_by_minute(late, few)
    assert not any(few.late(late).values())
    assert set(moved(few, plan)) == {"b1", "c1"}


def walked(asked: Work, plan: Plan, pace: dict[str, float]) -> int:
    """When hands are done that take each minute as it comes: of what can be done, what the plan has first; what dries
    before the rest. Not by the planner's own rooms.
    """
    left = {step.id: max(round(step.minutes * pace[step.id]), 1) for step in asked.steps}
    ends, t = dict[str, int](), 0
    tacky = {w.to for w in asked.waits if w.most is not None}
    pieces = {step.id: step.piece for step in asked.steps}

    def at_once(id_: str) -> int:
        """Minutes that must be there before the closing, with what dries meanwhile."""
        return left[id_] + max((w.least + at_once(w.to) for w in asked.waits if w.from_ == id_ and w.most is not None),
                               default=0)  # fmt: skip

    while left:
        window = next(((a, b) for a, b in asked.people[0].windows if b > t), None)
        assert window is not None
        t = max(t, window[0])
        can = [id_ for id_ in left if all(w.from_ in ends and ends[w.from_] + w.least <= t
                                          for w in asked.waits if w.to == id_)]  # fmt: skip
        fits = [id_ for id_ in can if at_once(id_) <= window[1] - t or (pieces[id_] and window[1] - t >= pieces[id_])]
        if not fits:
            t += 1
            continue
        id_ = min(fits, key=lambda k: (k not in tacky, plan.steps[k][0].start))
        at_it = min(left[id_], window[1] - t)
        t, left[id_] = t + at_it, left[id_] - at_it
        if not left[id_]:
            del left[id_]
            ends[id_] = t
    return max(ends.values())


@pytest.mark.parametrize("seed", range(12))
def test_work_goes_on_as_minute_by_minute(seed: int) -> None:
    asked = replace(work(seed, 3), families={}, machines={"wheel": 9}, places={"press": 9, "line": 9})
    plan, _ = planned(asked, seed, None, 10)
    pace = dict.fromkeys(asked.step, 1.3)
    minutes = [max(round(1.3 * step.minutes), 1) for step in asked.steps]
    rank = [float(plan.steps[step.id][0].start) for step in asked.steps]
    assert worked(asked, Serial(asked).ties, rank, minutes).max() == walked(asked, plan, pace)


def test_work_waits_for_set_ups_machines_places_and_second_hands() -> None:
    two = (Person("A", EVENINGS[:3]), Person("B", EVENINGS[:3]))
    steps = tuple(Step(f"{k}", "o", "", 30, "dye", "wheel") for k in range(3))

    def ends(asked: Work) -> list[float]:
        return sorted(worked(asked, Serial(asked).ties, [0.0] * 3, [30] * 3) - 1080)

    assert ends(Work(two, (Order("o"),), steps, machines={"wheel": 1}, families={"dye": 6})) == [36, 66, 96]
    assert ends(Work(two, (Order("o"),), steps, machines={"wheel": 2}, families={"dye": 6})) == [36, 36, 66]
    ready_ = frozenset({("A", "dye"), ("B", "dye")})
    assert ends(Work(two, (Order("o"),), steps, machines={"wheel": 2}, families={"dye": 6}, ready=ready_))[0] == 30
    row = (Step("a", "o", "", 30), Step("b", "o", "", 30), Step("c", "o", "", 30))
    waits = (Wait("a", "c", 50, None, "press"), Wait("b", "c", 50, None, "press"))
    one = Work(two, (Order("o"),), row, waits, places={"press": 1}, taken={"press": ((0, 1085),)})
    assert ends(one) == [35, 115, 1470]  # the second is not begun before the press is free
    assert ends(replace(one, places={"press": 3})) == [30, 30, 110]
    assert max(ends(replace(one, people=(Person("A", ((1080, 1115),)),)))) > FAR / 2  # hours that do not do


def test_what_is_said_of_a_date_comes_true_so_often() -> None:
    """Dates that are given about eight chances in ten, against hands that really work: 400 of them."""
    random, spread = np.random.default_rng(3), Spread()
    said, kept = list[float](), list[bool]()
    for seed in range(200):
        asked = replace(work(seed, 2), families={}, machines={"wheel": 9}, places={"press": 9, "line": 9})
        plan, _ = planned(asked, seed, None, 5)
        row = ready(asked, plan, seed)
        times = np.max([next(row) for _ in range(100)], axis=1)
        shares = {float(date_): float((times <= date_).mean()) for date_ in np.unique(times)}
        date_, share = min(shares.items(), key=lambda at: abs(at[1] - 0.8))
        if len(kept) == 400:
            break
        if abs(share - 0.8) < 0.05:
            for _ in range(8):
                maker = random.standard_normal()
                pace = {step.id: float(np.exp(spread.maker * maker + spread.step * random.standard_normal()))
                        for step in asked.steps}  # fmt: skip
                kept.append(walked(asked, plan, pace) <= date_)
                said.append(share)
    assert len(kept) == 400
    assert 0.75 <= np.mean(kept) <= 0.85
    assert abs(np.mean(said) - 0.8) < 0.01


def test_the_share_in_time_counts_each_order_by_its_own_date() -> None:
    asked = Work((Person("A", EVENINGS),), (Order("a", due=100), Order("b", due=200)), ())
    times = np.array([[90.0, 250], [100, 150], [101, 200], [300, 201]])
    assert in_time(asked, times) == {"a": 0.5, "b": 0.5}


# What was begun


JOB = demo.job("peg-tray")
ORDER = shop_orders.Order("o", "trays").with_job(JOB)
AT = "o/0/0/"


def steps() -> Steps:
    found = Steps()
    found.add(Doing("cut", "cut out", (), 30, ""))
    found.add(Doing("glue", "glue the seam", (), 6, "", "glue"), ["cut"])
    found.add(Doing("join", "join the seam", (), 3, ""))
    found.wait("glue", "join", "tacky", 15, 60)
    found.add(Doing("sew", "sew the seam", (), 100, "", "thread"))
    found.wait("join", "sew", "held", 45, place="clamps")
    return found


def begun(key: str) -> Worked:
    doing = steps()[key]
    return Worked(AT + key, "o", JOB.name, doing.name, doing.family, doing.minutes, "maker")


def left(now: datetime, *worked: Worked) -> tuple[Workload, Plan]:
    load = workload([ORDER], [Hand("maker", "maker")], Rates(), School(), now, lambda *_: steps(), Progress(worked))
    plan, _ = planned(load.work, 0, None, 6)
    assert not list(broken(load.work, plan))
    return load, plan


def at(hour: int, minute: int, day: int = 0) -> datetime:
    return MONDAY.replace(hour=hour, minute=minute) + timedelta(days=day)


def when(load: Workload, plan: Plan, key: str) -> datetime:
    return load.when(plan.steps[AT + key][0].start)


def test_what_is_done_is_history_and_binds_what_is_left() -> None:
    cut = begun("cut").begun(at(18, 0)).finished(at(18, 40))
    assert cut.minutes(at(23, 0)) == 40
    glue = begun("glue").begun(at(18, 45)).finished(at(18, 50))
    load, plan = left(at(18, 50), cut, glue)
    assert {id_.removeprefix(AT) for id_ in plan.steps} == {"join", "sew"}
    assert when(load, plan, "join") == at(19, 5)  # fifteen minutes after the glue was spread
    load, plan = left(at(19, 30), cut, glue, begun("join").begun(at(19, 26)).finished(at(19, 30)))
    assert when(load, plan, "sew") == at(20, 15)  # forty-five minutes after it was joined
    assert load.work.taken == {"clamps": ((1170, 1215),)}


def test_glue_that_dried_is_told_and_spread_again() -> None:
    cut, glue = (begun(key).begun(at(18, 0)).finished(at(18, 10)) for key in ("cut", "glue"))
    on_time, _ = left(at(19, 10), cut, glue)
    assert on_time.missed == ()
    load, plan = left(at(19, 11), cut, glue)
    (missed,) = load.missed
    assert (missed.first, missed.then, missed.at) == (AT + "glue", AT + "join", at(19, 10))
    assert when(load, plan, "glue") >= at(19, 11)
    assert AT + "cut" not in plan.steps
    noted = glue.finished(at(19, 20))  # it was spread again, and nobody told the clock
    load, plan = left(at(19, 20), cut, noted)
    assert load.missed == ()
    assert when(load, plan, "join") == at(19, 35)
    again = glue.begun(at(19, 12), "helper")
    assert (again.hand, again.stretches[0]) == ("helper", glue.stretches[0])
    assert again.stands is Stands.RUNNING
    load, plan = left(at(19, 14), cut, again.finished(at(19, 14)))
    assert load.missed == ()
    assert when(load, plan, "join") == at(19, 29)


def test_what_is_under_way_goes_on_whatever_the_hour() -> None:
    running = begun("cut").begun(at(21, 30))
    load, plan = left(at(21, 40), running)
    assert when(load, plan, "cut") == at(21, 40)
    assert plan.steps[AT + "cut"][-1].end - plan.steps[AT + "cut"][0].start == 20
    assert when(load, plan, "glue") >= at(18, 0, day=1)  # nobody begins anything else at night
    load, plan = left(at(21, 50), running.paused(at(21, 40)))
    assert when(load, plan, "cut") == at(18, 0, day=1)
    glue = begun("glue").begun(at(20, 55))
    load, plan = left(at(20, 58), begun("cut").finished(at(20, 50)), glue)
    assert when(load, plan, "join") < at(21, 30)  # whoever has glue open stays until it is joined


def test_what_was_set_up_just_now_stands_for_a_while() -> None:
    cut, glue = begun("cut").finished(at(18, 0)), begun("glue").begun(at(18, 0)).finished(at(18, 5))
    load, _ = left(at(18, 30), cut, glue)
    assert load.work.ready == {("maker", "glue")}
    load, _ = left(at(19, 6), cut, glue)
    assert load.work.ready == frozenset()
    load, _ = left(at(21, 30), cut, begun("glue").begun(at(21, 0)).paused(at(21, 20)))
    assert load.work.ready == frozenset()  # nobody is at the bench


def test_what_was_done_in_another_order_is_done() -> None:
    load, plan = left(at(18, 0), begun("sew").finished(at(18, 0), took=80))
    assert AT + "sew" not in plan.steps
    assert when(load, plan, "cut") == at(18, 0)
    assert begun("sew").finished(at(18, 0)).minutes(at(20, 0)) == 100  # as was thought, where no clock ran
    assert Progress([begun("sew").finished(at(18, 0), took=80)]).of(AT + "sew") is not None


def test_lines_keep_their_marks_whatever_becomes_of_the_others() -> None:
    other = demo.job("crew-cards")
    order = ORDER.with_job(other, 2)
    assert [line.mark for line in order.lines] == ["0", "1"]
    less = order.with_count(JOB, 0).with_count(other, 5)
    assert [(line.mark, line.count) for line in less.lines] == [("1", 5)]
    assert [line.mark for line in less.with_job(JOB).lines] == ["1", "0"]
    assert replace(less, wanted=date(2026, 5, 9)).lines == less.lines
    twice = shop_orders.Order("o", "both", lines=(shop_orders.Line(JOB, 1, "x"), shop_orders.Line(other, 1, "x")))
    assert [line.mark for line in twice.lines] == ["x", "0"]  # two of one mark are told apart


def test_what_stays_stays_only_where_it_can() -> None:
    two = (Person("A", EVENINGS[:3]), Person("B", EVENINGS[:3]))
    steps = (Step("a", "o", "", 30, machine="wheel"), Step("b", "o", "", 30, machine="wheel"))
    both = Plan({"a": (Spell("A", 1080, 1110),), "b": (Spell("B", 1080, 1110),)})
    one = Work(two, (Order("o"),), steps, machines={"wheel": 1})
    few = few_moves(one, both)
    assert few is not None
    assert not list(broken(one, few))
    assert len(moved(few, both)) == 1
    late = Plan({"a": (Spell("A", 1140, 1170),), "b": (Spell("A", 1200, 1230),)})
    now = replace(one, steps=(replace(steps[0], first=True, after=1080), steps[1]))
    few = few_moves(now, late)
    assert few is not None
    assert few.steps["a"][0].start == 1080  # what is under way goes on, whatever was planned for it
    assert few.steps["b"] == late.steps["b"]


def test_a_set_up_stands_for_the_hours_it_was_made_in() -> None:
    step = Step("a", "o", "", 30, "dye")
    asked = Work(
        (Person("A", EVENINGS[:2]),), (Order("o"),), (step,), families={"dye": 6}, ready=frozenset({("A", "dye")})
    )
    assert not list(broken(asked, Plan({"a": (Spell("A", 1080, 1110),)})))
    assert any("set up" in said for said in broken(asked, Plan({"a": (Spell("A", 2520, 2550),)})))
    tight = replace(asked, people=(Person("A", ((0, 33), (100, 200))),), ready=frozenset())
    assert worked(tight, Serial(tight).ties, [0.0], [30]).tolist() == [136]  # the first hours have no room for both
