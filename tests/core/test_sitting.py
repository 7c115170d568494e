"""What is next at the bench, what waits, what calls; and the work on paper."""

from __future__ import annotations

import csv
import io
import re
from dataclasses import replace
from datetime import date, datetime, timedelta

import numpy as np
import pdfplumber
import pytest

from tailor import demo
from tailor.core.bench.chance import Spread
from tailor.core.bench.planner import planned
from tailor.core.carried.traced import Traced
from tailor.core.errors import InputError
from tailor.core.job import draft
from tailor.core.shop.agenda import Agenda, Drafting, Planned, Sure, Wanted, Way
from tailor.core.shop.drafts import Drafts
from tailor.core.shop.foreman import planned as answered
from tailor.core.shop.orders import Order
from tailor.core.shop.paces import spread_of
from tailor.core.shop.progress import Progress, Stands, Stretch, Worked
from tailor.core.shop.sitting import calls, evening, turns, waiting
from tailor.core.shop.workload import steps_of
from tailor.demo.shop import BEFORE, shop
from tailor.files import bench_card
from tests.core.test_replanned import AT, at, begun, left

TODAY = date(2026, 5, 4)


def test_what_is_next_is_what_can_be_done_and_what_waits_says_until_when() -> None:
    cut = begun("cut").begun(at(18, 0)).finished(at(18, 30))
    glue = begun("glue").begun(at(18, 30)).finished(at(18, 36))
    load, plan = left(at(18, 36), cut, glue)
    progress = Progress([cut, glue])
    first, second = turns(load, plan, progress)
    assert (first.id, first.begins, second.id) == (AT + "join", at(18, 51), AT + "sew")
    (one,) = waiting(load, progress, at(18, 40))
    assert (one.until, one.latest, one.then.doing.key) == (at(18, 51), at(19, 36), "join")
    assert not one.over(at(18, 50))
    assert one.over(at(18, 51))
    assert waiting(load, progress, at(19, 37)) == []  # it has dried: nothing waits any more
    running = begun("sew").begun(at(18, 40))
    assert [turn.id for turn in turns(load, plan, Progress([cut, glue, running]))] == [AT + "sew", AT + "join"]
    assert turns(load, plan, progress, "nobody") == []


def test_what_waited_calls_once_and_again_before_it_is_too_late() -> None:
    cut = begun("cut").begun(at(18, 0)).finished(at(18, 30))
    glue = begun("glue").begun(at(18, 30)).finished(at(18, 36))
    load, _ = left(at(18, 36), cut, glue)
    progress = Progress([cut, glue])
    said = {}
    now = at(18, 36)
    while now < at(20, 0):
        later = now + timedelta(minutes=1)
        for what, presses in calls(load, progress, now, later):
            assert presses
            said[later] = what
        now = later
    assert list(said) == [at(18, 51), at(19, 31)]
    assert "19:36 at the latest" in said[at(18, 51)]
    assert said[at(19, 31)].startswith("Only until 19:36")
    done = Progress([cut, glue, begun("join").finished(at(18, 55))])
    assert [w for w, _ in calls(load, done, at(19, 30), at(19, 31))] == []


def test_the_demo_has_begun_its_first_order_in_an_order_that_works() -> None:
    of = {"2": steps_of(demo.job("radio"), shop(TODAY).rates, shop(TODAY).school),
          "0": steps_of(demo.job("eaves-blade"), shop(TODAY).rates, shop(TODAY).school)}  # fmt: skip
    done = set[tuple[str, str]]()
    for mark, _, key, name, family, minutes, _ in BEFORE:
        doing = of[mark][key]
        assert (doing.name, doing.family) == (name, family)
        assert doing.minutes == pytest.approx(minutes, abs=0.6)
        assert {(mark, before) for before in of[mark].earlier(key)} <= done
        done.add((mark, key))


def test_orders_are_planned_three_ways_once_something_was_planned() -> None:
    tray = demo.job("peg-tray")
    whole = replace(shop(TODAY), orders=(Order("o", "trays", promised=date(2026, 5, 9)).with_job(tray, 2),), worked=())
    maker, drafts, now = tray.settings.maker, Drafts(), at(18, 0)
    first = [a for a in answered(Wanted(whole, maker, now, None, seconds=0.2), drafts) if a is not None]
    assert isinstance(first[0], Drafting)
    agenda = next(a for a in first if isinstance(a, Agenda))
    assert {piece.name for piece in agenda.seen["o/0"]} == {p.name for p in draft(tray).pieces}
    plans = [a for a in first if isinstance(a, Planned)]
    assert {a.way for a in plans} == {Way.ANEW}
    sure = next(a for a in first if isinstance(a, Sure))
    assert sure.shares["o"] == 1.0
    begun_ = next(iter(agenda.load.tasks))
    task = agenda.load.tasks[begun_]
    worked = Worked(begun_, "o", task.thing, task.doing.name, "", task.doing.minutes, "the maker").begun(now)
    later = Wanted(replace(whole, worked=(worked,)), maker, now + timedelta(minutes=90), plans[-1].plan, seconds=0.2)
    again = [a for a in answered(later, drafts) if isinstance(a, Planned)]
    assert {a.way for a in again} == set(Way)
    few = next(a for a in again if a.way is Way.FEW)
    assert 0 < few.moved <= min(a.moved for a in again if a.way is Way.ORDER)
    assert few.plan.steps[begun_][0].start == 18 * 60 + 90  # it goes on now


def test_a_job_that_cannot_be_drafted_hides_no_other() -> None:
    good, bad = demo.job("peg-tray"), replace(demo.job("old-pouch"), traced=Traced())
    whole = replace(shop(TODAY), orders=(Order("o", "both").with_job(bad).with_job(good),), worked=())
    found = [
        a
        for a in answered(Wanted(whole, good.settings.maker, at(18, 0), None, seconds=0.05), Drafts())
        if a is not None
    ]
    agenda = next(a for a in found if isinstance(a, Agenda))
    assert [said.startswith(bad.name) for said in agenda.refused] == [True]
    assert {task.thing for task in agenda.load.tasks.values()} == {good.name}


def test_the_work_is_written_as_cards_and_as_a_table(tmp_path) -> None:
    cut = begun("cut").begun(at(18, 0)).finished(at(18, 40))
    load, plan = left(at(18, 40), cut)
    progress = Progress([cut])
    bench_card.write(load, plan, progress, out := tmp_path / "work.pdf", "maker")
    with pdfplumber.open(out) as pdf:
        pages = [page.extract_text() for page in pdf.pages]
    assert "Monday 4 May" in pages[0]
    assert re.search(r"18:43\s+glue the seam", pages[0])  # after the set-up for glue
    assert "15 min after glue the seam, 60 at the latest" in pages[1]
    assert "cut out" in pages[1]
    assert "cut out" not in pages[0]  # it is done
    rows = list(csv.DictReader(io.StringIO(bench_card.table(load, plan, progress))))
    assert [row["step"] for row in rows] == ["cut out", "glue the seam", "join the seam", "sew the seam"]
    assert [rows[0][key] for key in ("stands", "took", "minutes", "begins")] == [
        "done",
        "40.0",
        "30",
        "2026-05-04T18:00",
    ]
    assert rows[1]["begins"] == "2026-05-04T18:43"
    bench_card.write(load, plan, progress, tmp_path / "work.ics")
    assert (tmp_path / "work.ics").read_bytes().count(b"BEGIN:VEVENT") == sum(map(len, plan.steps.values()))
    with pytest.raises(InputError, match=r"\.odt"):
        bench_card.write(load, plan, progress, tmp_path / "work.odt")


def test_an_evening_says_what_lies_over_night() -> None:
    radio = Order("r", "radio").with_job(demo.job("radio"))
    whole = replace(shop(TODAY), orders=(radio,), worked=())
    found = list(answered(Wanted(whole, radio.lines[0].job.settings.maker, at(18, 0), None, seconds=0.1), Drafts()))
    load = next(a for a in found if isinstance(a, Agenda)).load
    plan, _ = planned(load.work, 0, None, 6)
    day = evening(load, turns(load, plan, Progress()))
    assert day is not None
    assert day.day == TODAY
    assert len([said for said in day.left if "dries" in said]) == 2
    assert all(isinstance(turn.begins, datetime) and turn.stands is Stands.TO_DO for turn in day.turns)


# How sure, by what was worked


def of_thing(n: int, pace: float, random: np.random.Generator) -> list[Worked]:
    at = datetime(2026, 5, 4, 18, 0)
    return [
        Worked(f"order/{n}/0/{key}", "order", "thing", key, "", 20.0, "me", (Stretch(at, at),), True,
               20.0 * pace * float(np.exp(0.1 * random.standard_normal())))
        for key in ("mark", "cut", "sew main", "glue main", "edges", "try")
    ]  # fmt: skip


def test_dates_are_reckoned_by_how_long_things_took_once_some_are_made() -> None:
    random = np.random.default_rng(2)
    assert spread_of([]) == Spread()
    half = [one for one in of_thing(0, 1.5, random) if not one.id.endswith("try")]
    assert spread_of(half) == Spread()  # it is not made yet
    slow = spread_of([one for n in range(5) for one in of_thing(n, 1.5, random)])
    assert np.exp(slow.pace) == pytest.approx(1.5, abs=0.08)
    assert slow.step < Spread().step  # steadier than was thought
    once = spread_of(of_thing(0, 1.5, random))
    assert 1.15 < np.exp(once.pace) < 1.45
    assert once.maker > slow.maker
