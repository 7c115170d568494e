"""What makers go by without asking: each habit is declared, felt where it says, and a maker may have his own."""

from __future__ import annotations

import pickle
import re
from collections.abc import Iterator
from datetime import date
from functools import cache
from itertools import chain
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from tailor import core, demo
from tailor.core.bench import drying
from tailor.core.bench.derived import derived
from tailor.core.bench.schools import School
from tailor.core.carried.zones import ZoneKind
from tailor.core.errors import InputError
from tailor.core.habit import COUNT, Habit, declared
from tailor.core.job import Job, draft, judge
from tailor.core.keys import MEASURES
from tailor.core.maker import Maker, usual
from tailor.core.shop.made import ordered
from tailor.demo.shop import shop as of_the_demo
from tailor.files import habits, makers, report
from tests.standing import settled
from tests.sweeps import some
from tests.things import job_of

FELT = {  # jobs, and the habits that are felt in each: all there are
    "eaves-blade": "belt.easy belt.foot friction.grip friction.holds glue.back glue.room hand.finger hand.fingers "
    "leather.gives loop.slack mouth.covers mouth.holds mouth.scoop seam.tight stitch.easy stitch.over tooled.thick "
    "welt.inset welt.skived welt.thread_room welt.usual hang.steady",
    "eaves-blade; flap.closing=plain": "flap.down flap.taper flap.tongue",
    "eaves-blade; loop.landing=ear": "ear.beside",
    "eaves-blade; loop.landing=ear; belt.width=80mm": "ear.share",
    "eaves-blade; mouth.y=38": "mouth.shortest",
    "eaves-blade; mould.method=fingers": "dries.coated dries.folded dries.moulded dries.tooled tooled.fades",
    "eaves-blade; stamp.width=18": "dries.cased stamp.below",
    "eaves-blade; tooling.1.depth=2.2mm": "tooled.deepest",
    "eaves-blade; tooling.2.patch=yes": "field.corner",
    "shearing-blade": "loop.foot_share welt.room",
    "spar-hook": "welt.most",
    "spar-hook; keeper.way=over; keeper.button=stud 8": "stud.hole stud.slit",
    "spar-hook; keeper.way=round": "keeper.above keeper.border keeper.least_lap keeper.least_tab keeper.upright",
    "shears; back.tab=20": "thumb.share thumb.width",
    "shears; carry.side=cross": "loop.cross loop.narrowest",
    "radio": "mould.drawn mould.holds",
    "radio; patch.on=back blank; patch.kind=moulded pocket": "patch.play",
    "stapler": "slots.room slots.web_least slots.webs",
    "stapler; fit.clearance=0": "leather.gives_formed",
    "stapler; object.balance=200": "object.left",
    "leggett": "mask.over_neck mask.tail mask.to_thread object.density",
    "leggett; loop.landing=handle": "loop.below_mouth loop.widest",
    "whetstone; pull.tab=under": "slip.inset slip.pulled slip.thumb",
    "marking-gauge": "bow.steep roll.bows roll.ease roll.flap roll.share roll.through",
    "site-book": "book.beyond book.board book.holds book.play cover.glued",
    "delivery-notes": "cover.corner dries.dyed papers.ease papers.least stitch.under",
    "crew-cards": "cards.ease cards.shown cards.tuck",
    "laser-level; strap.pad=6": "box.play flap.from_end flap.front flap.least flap.narrows handle.hand handle.width "
    "sling.apart sling.buckled sling.end sling.hole sling.pad sling.prong tab.over",
    "laser-level; handle.kind=wrapped": "gusset.round handle.core",
    "laser-level; foam.thickness=0; divider.count=2": "divider.clear divider.low divider.tall divider.narrow",
    "spar-bag": "bag.rim",
    "spar-bag; roll.turns=2; roll.closing=snap 10": "roll.from_end roll.stay",
    "kit-bag": "gusset.flat under.before under.clear",
    "kit-bag; inside.across=120": "under.beside",
    "kit-bag; bottom.made=laminated": "channel.rises",
    "ridge-bag": "soft.lap soft.shorter soft.stagger soft.turn_in soft.zipped",
    "peg-tray": "field.plain tray.gap tray.glued",
    "peg-tray; patch.on=tray; patch.kind=bellows pocket; patch.flap=snap 10":
    "patch.brim patch.corner pocket.collar pocket.comes_down",
    "twine-spool": "round.held round.stands round.tab",
    "thing 8; two-panel": "friction.unsure",
    "thing 4; folded-sheath": "welt.keen",
    "thing 19; flat-back; back.tab=20": "thumb.narrow",
}  # fmt: skip


def job_said(said: str) -> Job:
    if said.startswith("thing"):
        number, style, *pinned = said.removeprefix("thing ").split("; ")
        return settled("; ".join(["", *pinned]), job_of(int(number), style))
    return settled(said)


def told(job: Job, maker: Maker) -> list[Any]:
    """All that is drawn and said of a job; or what it is refused for."""
    try:
        made = draft(job.by(maker))
    except InputError as error:
        return [str(error)]
    pieces = [
        (p.name, *([line.round(6).tolist() for line in lines] for lines in
                   ([p.cut], p.openings, p.stitch, [r.points for r in p.rules])), p.marks, p.fittings)
        for p in made.pieces
    ]  # fmt: skip
    ledger = judge(job.by(maker), made)
    waits = [derived(made, school=School(dye=way, fold="wet"), maker=maker).follows for way in ("before", "after")]
    return [*waits, *pieces, report.report(job.by(maker), made, ledger), [v.remedies for v in ledger]]


@cache
def plainly(said: str) -> list[Any]:
    return told(job_said(said), usual())


def with_his(**own: float) -> Maker:
    plain = usual()
    return Maker(plain.fastenings, plain.trimmings, habits=own)


def cases() -> Iterator[tuple[str, Habit]]:
    for said, names in FELT.items():
        yield from ((said, declared()[name]) for name in names.split())


@pytest.mark.parametrize(("said", "of"), some([*cases()]), ids=lambda value: getattr(value, "name", value))
def test_each_habit_is_felt(said: str, of: Habit) -> None:
    ways = (told(job_said(said), with_his(**{of.name: value})) for value in (of.low, of.high) if value != of.usual)
    assert any(way != plainly(said) for way in ways)


@pytest.mark.parametrize("said", some([*FELT]))
def test_what_is_usual_said_by_its_maker_changes_nothing(said: str) -> None:
    assert told(job_said(said), with_his(**{name: of.usual for name, of in declared().items()})) == plainly(said)


def test_every_habit_has_a_job_that_feels_it_and_is_no_measure() -> None:
    named = [*chain.from_iterable(names.split() for names in FELT.values())]
    assert sorted(named) == [*declared()]
    assert not set(declared()) & set(MEASURES)
    rooms = (path.read_text() for path in Path(core.__path__[0]).rglob("*.py"))
    assert len(declared()) == sum(len(re.findall(r"= habit\.(?:bench|hand|stuff|eye)\(", room)) for room in rooms)


def test_what_dries_is_counted_in_minutes_and_typed_in_either_unit() -> None:
    assert [drying.minutes(usual(), of) for of in (drying.CASED, drying.COATED, drying.MOULDED)] == [20, 60, 24 * 60]
    assert drying.minutes(with_his(**{"dries.cased": 45}), drying.CASED) == 45
    assert drying.CASED.parse("1.5 h") == 90
    assert drying.MOULDED.parse("600 min") == 10
    assert drying.MOULDED.parse("12") == drying.MOULDED.parse("12h") == 12
    with pytest.raises(InputError, match="makers keep to 4 – 96 h"):
        drying.MOULDED.parse("30 min")
    with pytest.raises(InputError, match="is no number"):
        drying.MOULDED.parse("overnight")


def test_a_makers_own_habits_are_read_from_his_table(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path)
    laid = next(path for path in makers.take_out() if path.name == habits.NAME)
    assert makers.load()[0].habits == {}
    laid.write_text(
        laid.read_text().replace("\nslots.room,,", "\nslots.room,1/8 in,").replace("\nwelt.most,,", "\nwelt.most,3,")
    )
    makers.take_out()  # which writes over nothing
    maker, complaints = makers.load()
    assert complaints == ()
    assert maker.habits == {"slots.room": 3.175, "welt.most": 3.0}
    job = demo.job("stapler")
    wider = draft(job.by(maker)).value("slots.width") - draft(job).value("slots.width")
    assert wider == pytest.approx(3.175 - declared()["slots.room"].usual)
    assert pickle.loads(pickle.dumps(maker)).habits == maker.habits


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("mouth.cover,5", "row 2: there is no habit called 'mouth.cover'; perhaps mouth.covers was meant"),
        ("mouth.covers,90", "row 2: mouth.covers is 90.0 mm, and makers keep to 2.0 – 12.0 mm"),
        ("welt.most,2.5", "row 2: welt.most is 2.5, and it is counted"),
        ("flap.down,wide", "row 2: 'wide' is no number"),
        ("flap.down,nan", "row 2: flap.down is nan %, and makers keep to 15 – 60 %"),
        ("mouth.covers,3\nmouth.covers,4", "row 3: mouth.covers is there twice"),
    ],
)
def test_a_slip_in_his_table_is_told_of_and_what_is_usual_used(
    row: str, said: str, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path)
    (tmp_path / habits.NAME).write_text(f"name,mine\n{row}\n")
    maker, (complaint,) = makers.load()
    assert maker.habits == {}
    assert said in complaint


@pytest.mark.parametrize(
    ("name", "typed", "value", "said"),
    [
        ("welt.skived", "3/4in", 19.05, "19.1 mm"),
        ("flap.down", "40 %", 0.4, "40 %"),
        ("flap.down", "0.4", 0.4, "40 %"),
        ("hand.fingers", "2.5 times", 2.5, "2.5 times"),
        ("welt.most", "5", 5.0, "5"),
        ("loop.cross", "15", 15.0, "15 degrees"),
    ],
)
def test_a_habit_is_typed_and_said_in_its_own_way(name: str, typed: str, value: float, said: str) -> None:
    of = declared()[name]
    assert of.parse(typed) == pytest.approx(value)
    assert of.say(value) == said


def test_one_number_changes_one_row_of_a_table_and_nothing_else() -> None:
    of = declared()["flap.down"]
    table = '# mine\nmine, name ,why\n,welt.most,\n , flap.down,"low, at the bench"\n'
    changed = habits.with_mine(table, of, 0.4)
    assert changed == table.replace(" , flap.down", "0.4, flap.down")
    assert habits.read(habits.with_mine(changed, declared()["loop.cross"], 15.0), "") == {
        "flap.down": 0.4,
        "loop.cross": 15.0,
    }
    assert habits.read(habits.with_mine(changed, of, None), "") == {}


def test_what_is_ordered_is_made_by_its_maker() -> None:
    order = of_the_demo(date(2026, 5, 4)).order("fair")
    (plain, *_), (mine, *_) = ordered(order), ordered(order, with_his(**{"cards.ease": 4.0}))
    assert mine.draft.value("inside.across") - plain.draft.value("inside.across") == pytest.approx(2.0)


def test_the_deepest_scoop_keeps_a_trigger_covered() -> None:
    job = settled("stapler; mouth.y=128; fit.trigger=16").by(with_his(**{"mouth.scoop": 12.0}))
    made = draft(job)
    trigger = max(zone.high for zone in job.zones if zone.kind is ZoneKind.TRIGGER)
    assert 0 < made.value("mouth.relief") == pytest.approx(made.value("mouth.y") - trigger - 16.0)
    assert not [v for v in judge(job, made) if v.name == "Trigger covered" and v.ruling != "ok"]


def test_a_habit_is_within_what_makers_do() -> None:
    for of in declared().values():
        assert [of.checked(value, "") for value in (of.low, of.high)] == [of.low, of.high]
        for beyond in (np.nextafter(of.low, -np.inf), np.nextafter(of.high, np.inf)):
            with pytest.raises(InputError):
                of.checked(float(beyond), "")
        assert of.unit != COUNT or of.usual == round(of.usual)
