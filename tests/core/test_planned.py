"""Steps in the hours there are: whatever is planned holds, and what cannot be is told."""

from __future__ import annotations

import itertools
import json
import os
import tempfile
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

import numpy as np
import pytest
from bench.bound import bound
from hypothesis import given, settings
from hypothesis import strategies as st

from tailor import cli
from tailor.core.bench.planner import Planner, planned
from tailor.core.bench.replan import in_order
from tailor.core.bench.serial import Serial
from tailor.core.bench.work import FAR, Order, Person, Plan, Spell, Step, Wait, Work, broken
from tailor.core.errors import InputError
from tailor.files import kept_plan
from tests.sweeps import about

EVENINGS = tuple((day * 1440 + 1080, day * 1440 + 1260) for day in range(120))
DAYS = tuple((day * 1440 + 480, day * 1440 + 960) for day in range(120))


def work(seed: int, orders: int = 3, people: tuple[Person, ...] = (Person("A", EVENINGS),)) -> Work:
    """Random things to make: cut, glue and join in time, press, sew in pieces, dye and dry."""
    rng = np.random.default_rng(seed)
    steps, waits = list[Step](), list[Wait]()
    for o in range(orders):

        def step(name: str, minutes: int, o: int = o, **more: object) -> str:
            steps.append(Step(f"{o}.{len(steps)}", str(o), name, minutes, **more))  # type: ignore[arg-type]
            return steps[-1].id

        cut = [step("cut", int(rng.integers(3, 25))) for _ in range(rng.integers(1, 5))]
        glue = step("glue", int(rng.integers(5, 15)), family="glue")
        join = step("join", int(rng.integers(5, 20)))
        waits += [Wait(c, glue) for c in cut]
        waits.append(Wait(glue, join, 15, int(rng.integers(20, 90))))
        pressed = step("take out of the press", 2)
        waits.append(Wait(join, pressed, 30, 200, "press", held=True))
        sewn = step("sew", int(rng.integers(40, 260)), piece=15)
        waits.append(Wait(pressed, sewn, 0))
        dyed = step("dye", 12, family=f"dye {rng.integers(2)}")
        last = step("wax", 6, machine="wheel")
        waits += [Wait(sewn, dyed), Wait(dyed, last, 300, None, "line")]
    dues = [Order(str(o), "case", float(rng.integers(1, 4)), int(rng.integers(3, 15)) * 1440) for o in range(orders)]
    return Work(people, tuple(dues), tuple(steps), tuple(waits), {"wheel": 1}, {"press": 1, "line": 2},
                {"glue": 4, "dye 0": 8, "dye 1": 8})  # fmt: skip


def minute_by_minute(asked: Work, plan: Plan) -> None:
    """Every rule, by walking through the minutes: not as the planner, nor as `broken` asks it."""
    hands: dict[tuple[str, int], str] = {}
    spells = [(step, spell) for step in asked.steps for spell in plan.steps[step.id]]
    for what, spell in [*((step.id, s) for step, s in spells), *plan.setups]:
        for minute in range(spell.start, spell.end):
            assert (spell.person, minute) not in hands
            hands[spell.person, minute] = what
    for person, minute in hands:
        assert any(a <= minute < b for p in asked.people if p.id == person for a, b in p.windows)
    for step in asked.steps:
        mine = plan.steps[step.id]
        assert sum(s.end - s.start for s in mine) == step.minutes
        for s in mine:
            (window,) = {
                w for p in asked.people if p.id == s.person for w in p.windows if w[0] <= s.start <= s.end <= w[1]
            }
            if asked.families.get(step.family):
                assert any(f == step.family and u.person == s.person and window[0] <= u.start and u.end <= s.start
                           and u.end - u.start >= asked.families[f] for f, u in plan.setups)  # fmt: skip
        assert len(mine) == 1 or (step.piece and min(s.end - s.start for s in mine) >= step.piece)
    for machine, count in asked.machines.items():
        used = [m for step, s in spells if step.machine == machine for m in range(s.start, s.end)]
        assert max(np.unique(used, return_counts=True)[1], default=0) <= count
    for place, room in asked.places.items():
        taken = []
        for wait in asked.waits:
            if wait.place == place:
                end = plan.steps[wait.from_][-1].end
                taken += range(end, plan.steps[wait.to][0].start if wait.held else end + wait.least)
        assert max(np.unique(taken, return_counts=True)[1], default=0) <= room
    for wait in asked.waits:
        between = plan.steps[wait.to][0].start - plan.steps[wait.from_][-1].end
        assert between >= wait.least
        assert wait.most is None or between <= wait.most


@settings(max_examples=about(25), deadline=None)
@given(st.integers(0, 10**6), st.booleans())
def test_whatever_is_planned_holds_minute_by_minute(seed: int, two: bool) -> None:
    people = (Person("A", EVENINGS), Person("B", DAYS[::2])) if two else (Person("A", EVENINGS),)
    asked = work(seed, 1 + seed % 4, people)
    plan, tried = planned(asked, seed, seconds=None, plans=30)
    assert tried == 30
    minute_by_minute(asked, plan)
    assert not list(broken(asked, plan))


def test_the_same_asks_give_the_same_plan_and_more_of_them_a_better_one() -> None:
    asked = work(5, 5)
    few, many = (planned(asked, 2, None, n)[0] for n in (5, 150))
    assert planned(asked, 2, None, 150)[0] == many
    assert many.cost(asked) <= few.cost(asked)
    late = sum(10 * o.weight * max(0, max(many.steps[s.id][-1].end for s in asked.steps if s.order == o.id) - o.due)
               for o in asked.orders)  # fmt: skip
    assert many.cost(asked) == late + max(s.end for spells in many.steps.values() for s in spells)


def test_few_steps_are_planned_as_well_as_by_trying_every_order() -> None:
    """Four steps on one bench, by every order there is of them."""
    minutes, dues, weights = (30, 50, 20, 70), (1120, 1200, 1150, 1260), (1.0, 4.0, 2.0, 1.0)
    asked = Work(
        (Person("A", EVENINGS[:6]),),
        tuple(Order(str(k), "", w, d) for k, (d, w) in enumerate(zip(dues, weights, strict=True))),
        tuple(Step(str(k), str(k), "", m) for k, m in enumerate(minutes)),
    )
    best = min(
        10 * sum(weights[k] * max(0, end - dues[k]) for k, end in zip(row, ends, strict=True)) + ends[-1]
        for row in itertools.permutations(range(4))
        for ends in [1080 + np.cumsum([minutes[k] for k in row])]
    )
    assert planned(asked, 0, None, 120)[0].cost(asked) == pytest.approx(best)


def test_a_glue_window_is_not_laid_over_a_closing() -> None:
    asked = Work(
        (Person("A", EVENINGS),), (Order("o"),),
        (Step("cut", "o", "cut", 170), Step("glue", "o", "glue", 5), Step("join", "o", "join", 5)),
        (Wait("cut", "glue"), Wait("glue", "join", 10, 40)),
    )  # fmt: skip
    plan, _ = planned(asked, 0, None, 10)
    assert plan.steps["glue"][0].start == 1440 + 1080  # five minutes before the closing it would have dried
    assert plan.steps["join"][0].start == 1440 + 1080 + 5 + 10


@pytest.mark.parametrize(("opens", "starts"), [(65, 0), (66, 1), (70, 5)])
def test_no_join_is_a_minute_later_than_it_may_be(opens: int, starts: int) -> None:
    asked = Work(
        (Person("A", ((0, 60), (opens, 400))),), (Order("o"),),
        (Step("glue", "o", "glue", 55), Step("join", "o", "join", 30)), (Wait("glue", "join", 0, 10),),
    )  # fmt: skip
    plan, _ = planned(asked, 0, None, 10)
    assert not list(broken(asked, plan))
    assert plan.steps["glue"][0].start == starts


@pytest.mark.parametrize(
    ("spoil", "said"),
    [
        (
            lambda p: {**p, "join": (Spell("A", 2575, 2580),)},
            "join begins 7 minutes too late after glue",
        ),
        (
            lambda p: {**p, "join": (Spell("A", 2534, 2539),)},
            "join begins 4 minutes too soon after glue",
        ),
        (lambda p: {**p, "cut": (Spell("A", 1000, 1170),)}, "hours"),
        (lambda p: {**p, "cut": (Spell("A", 1080, 1120),)}, "170 minutes"),
        (lambda p: {**p, "cut": (Spell("A", 1080, 1180), Spell("A", 1180, 1250))}, "too short"),
        (lambda p: {**p, "glue": (Spell("A", 1100, 1105),)}, "before"),
    ],
)
def test_a_plan_that_is_spoilt_is_seen_to_be(spoil, said: str) -> None:
    asked = Work(
        (Person("A", EVENINGS),), (Order("o"),),
        (Step("cut", "o", "cut", 170), Step("glue", "o", "glue", 5, family="glue"), Step("join", "o", "join", 5)),
        (Wait("cut", "glue"), Wait("glue", "join", 10, 40)), families={"glue": 3},
    )  # fmt: skip
    plan, _ = planned(asked, 0, None, 5)
    assert not list(broken(asked, plan))
    assert any(said in each for each in broken(asked, replace(plan, steps=spoil(dict(plan.steps)))))
    assert any("set up" in each for each in broken(asked, replace(plan, setups=())))


def test_what_cannot_be_planned_names_its_step() -> None:
    once = Person("A", ((0, 60),))
    long = Work((once,), (Order("o"),), (Step("s", "o", "sew", 61),))
    with pytest.raises(InputError, match="sew"):
        planned(long, 0, None, 5)
    round_ = Work(
        (once,), (Order("o"),), (Step("a", "o", "a", 1), Step("b", "o", "b", 1)), (Wait("a", "b"), Wait("b", "a"))
    )
    with pytest.raises(InputError, match="itself"):
        Planner(round_)
    tight = Work((Person("A", ((0, 10), (1000, 1010))),), (Order("o"),),
                 (Step("a", "o", "glue", 8), Step("b", "o", "join", 8)), (Wait("a", "b", 5, 30),))  # fmt: skip
    with pytest.raises(InputError, match="no room"):
        planned(tight, 0, None, 5)


ASKED = {
    "format": "tailor-plan-problem/1",
    "people": [{"id": "A", "windows": [[1080, 1260], [2520, 2700]]}],
    "orders": [{"id": "o1", "item": "case", "weight": 2, "due": 1200}],
    "steps": [{"id": "a", "order": "o1", "name": "cut", "dur": 100},
              {"id": "b", "order": "o1", "name": "sew", "dur": 120}],
    "lags": [{"from": "a", "to": "b", "min": 0}],
}  # fmt: skip


def test_a_problem_is_planned_by_the_command_line(tmp_path, capsys) -> None:
    (asked := tmp_path / "asked.json").write_text(json.dumps(ASKED))
    out = tmp_path / "plan.json"
    assert cli.main(["plan", "--problem", str(asked), "-o", str(out), "--seconds", "0.2"]) == 0
    told = json.loads(out.read_text())
    assert told["steps"] == {"a": [["A", 1080, 1180]], "b": [["A", 2520, 2640]]}
    assert (told["late"], told["cost"]) == ({"o1": 1440}, 10 * 2 * 1440 + 2640)
    assert "Tuesday at 20:00, 24.0 h late" in capsys.readouterr().out


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"format": "x"}, "tailor-plan-problem/1"), ({"people": []}, "people"),
        ({"people": [{"id": "A", "windows": [[100, 50]]}]}, "end before they begin"),
        ({"lags": [{"from": "a", "to": "c"}]}, "'c'"),
        ({"lags": [{"from": "a", "to": "b", "min": 9, "max": 3}]}, "3 minutes"),
        ({"steps": [{"id": "a", "order": "o2", "dur": 1}]}, "'o2'"),
        ({"steps": [{"id": "a", "order": "o1", "dur": -1}]}, "dur"),
        ({"steps": ASKED["steps"] * 2}, "two are called a"),
        ({"steps": [{"id": "a", "order": "o1", "dur": 1, "machine": "press"}]}, "'press'"),
    ],
)  # fmt: skip
def test_a_problem_that_cannot_be_is_refused_in_a_sentence(tmp_path, capsys, change, said) -> None:
    (asked := tmp_path / "asked.json").write_text(json.dumps({**ASKED, **change}))
    assert cli.main(["plan", "--problem", str(asked), "-o", str(tmp_path / "x.json")]) == 2
    told = capsys.readouterr().err
    assert said in told
    assert "asked.json" in told
    assert not (tmp_path / "x.json").exists()


def test_what_takes_no_hands_and_what_has_no_place_to_wait() -> None:
    asked = Work(
        (Person("A", EVENINGS),), (Order("o"),),
        (Step("a", "o", "paste", 0, family="paste"), Step("b", "o", "join", 10)),
        (Wait("a", "b", 30, 60, "press", held=True),), places={"press": 1}, families={"paste": 3},
    )  # fmt: skip
    plan, _ = planned(asked, 0, None, 5)
    assert not list(broken(asked, plan))
    assert plan.steps["a"][0].start == plan.steps["a"][0].end >= 1080 + 3  # once it is set up
    with pytest.raises(InputError, match="no room"):
        planned(replace(asked, places={"press": 0}), 0, None, 5)


def test_where_nothing_is_to_be_done_nothing_is_planned() -> None:
    assert planned(Work((Person("A", EVENINGS),), (), ()), 0, None, 25)[0] == Plan({})


def test_two_pairs_of_hands_are_done_sooner_and_share_one_machine() -> None:
    steps = tuple(Step(str(k), "o", "sew", 60, machine="machine") for k in range(4))
    alone = Work((Person("A", EVENINGS),), (Order("o"),), steps, machines={"machine": 2})
    both = replace(alone, people=(Person("A", EVENINGS), Person("B", EVENINGS)))
    assert planned(alone, 0, None, 5)[0].end == 1440 + 1080 + 60
    assert planned(both, 0, None, 5)[0].end == 1080 + 120
    held_up = planned(replace(both, machines={"machine": 1}), 0, None, 5)[0]
    assert held_up.end == 1440 + 1080 + 60  # as if there were one pair
    minute_by_minute(replace(both, machines={"machine": 1}), held_up)


def finished(asked: Work) -> Work:
    """The same with no dates to keep."""
    return replace(asked, orders=tuple(replace(order, due=FAR) for order in asked.orders))


@pytest.mark.parametrize("seed", range(10))
def test_no_plan_ends_before_its_bound(seed: int) -> None:
    two = (Person("A", EVENINGS), Person("B", DAYS)) if seed % 2 else (Person("A", EVENINGS),)
    asked = finished(work(seed, 2 + seed % 3, two))
    plan, _ = planned(asked, seed, None, 40)
    assert bound(asked) <= plan.end
    assert bound(replace(asked, people=(*asked.people, Person("C", EVENINGS)))) <= bound(asked)


def test_a_bound_is_what_a_hand_reckons() -> None:
    one = Work((Person("A", EVENINGS),), (Order("o"),), (Step("a", "o", "a", 100), Step("b", "o", "b", 100)))
    assert bound(one) == EVENINGS[1][0] + 20  # 200 minutes, 180 of an evening
    long = replace(one, waits=(Wait("a", "b", 2 * 1440),))
    assert bound(long) == EVENINGS[3][0] + 100  # two days after the first is done, and then the next evening
    dyed = replace(one, steps=tuple(replace(s, family="dye") for s in one.steps), families={"dye": 8})
    assert bound(dyed) == EVENINGS[1][0] + 20 + 2 * 8  # more than an evening's dyeing is set up for twice
    ready = replace(dyed, ready=frozenset({("A", "dye")}))
    assert bound(ready) == EVENINGS[1][0] + 20 + 8


def test_like_steps_are_kept_together() -> None:
    apart = together = 0
    for seed in range(20):
        asked = finished(work(seed, 6))
        serial, priority = Serial(asked), np.random.default_rng(seed).uniform(0, 100, len(asked.steps)).tolist()
        plain, like = serial.plan(priority), serial.plan(priority, 0, 0.4)
        for plan in (plain, like):
            assert not list(broken(asked, plan))
        apart, together = apart + len(plain.setups), together + len(like.setups)
        again = in_order(asked, like)
        assert again is not None
        assert again.steps == like.steps  # it is planned anew in the same order
    assert together < 0.97 * apart


def test_what_comes_late_is_wanted_sooner() -> None:
    """Dates moved by how late orders came leave fewer of them late than the rules alone."""
    rules = rows = 0.0
    for seed in range(12):
        asked = work(seed, 7)
        tight = replace(asked, orders=tuple(replace(o, due=o.due // 2) for o in asked.orders))
        planner = Planner(tight, seed)
        going = planner.run()
        for _ in range(30):
            next(going)
        rules += planner.cost
        for _ in range(36):
            next(going)
        rows += planner.cost
    assert rows < 0.97 * rules


@settings(max_examples=about(60), deadline=None)
@given(st.integers(0, 10**6), st.integers(0, 400), st.binary(min_size=1, max_size=6))
def test_a_kept_plan_is_read_or_is_none(seed: int, at: int, junk: bytes) -> None:
    asked = work(seed % 50, 2)
    plan, _ = planned(asked, seed % 50, None, 3)
    with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, XDG_STATE_HOME=folder):
        book = Path(folder) / "shop.tailorshop"
        assert kept_plan.kept(book) is None
        kept_plan.keep(plan, date(2026, 5, 4), book)
        again, monday = kept_plan.kept(book) or (None, None)
        assert (again, monday) == (plan, date(2026, 5, 4))
        assert kept_plan.kept(Path(folder) / "other.tailorshop") is None
        path = kept_plan.path_of(book)
        whole = path.read_bytes()
        path.write_bytes(whole[:at] + junk + whole[at + len(junk) :])
        kept_plan.kept(book)  # whatever stands there, it is a plan or none
        path.write_bytes(whole[:at])
        assert kept_plan.kept(book) is None


def test_a_plan_is_the_same_a_week_later() -> None:
    asked = work(3, 3)
    plan, _ = planned(asked, 3, None, 10)
    week = 7 * 1440
    later = plan.later(week)
    shifted = replace(asked, people=tuple(
        Person(p.id, tuple((a + week, b + week) for a, b in p.windows)) for p in asked.people), orders=tuple(
        replace(o, due=o.due + week) for o in asked.orders))  # fmt: skip
    assert not list(broken(shifted, later))
    assert later.late(shifted) == plan.late(asked)
    assert later.later(-week) == plan
