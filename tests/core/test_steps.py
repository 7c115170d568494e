"""Steps of a draft: what a maker of each kind of case would say must come before what, worked by hand."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, datetime, timedelta
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
import vobject

from tailor import demo
from tailor.core.bench.derived import BLADE, LIVE, derived
from tailor.core.bench.labour import labour, minutes
from tailor.core.bench.planner import planned
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import GLUES, School
from tailor.core.bench.steps import Steps
from tailor.core.bench.supplies import together
from tailor.core.bench.work import broken
from tailor.core.carried.zones import ZoneKind
from tailor.core.errors import InputError
from tailor.core.job import draft
from tailor.core.shop.hands import Hand, days_off, hours, hours_said
from tailor.core.shop.made import Made
from tailor.core.shop.needs import needs
from tailor.core.shop.orders import Line, Order
from tailor.core.shop.workload import steps_of, workload
from tailor.demo.shop import shop as of_the_demo
from tailor.files import calendar

NOON = datetime(2026, 5, 4, 12, 0)  # a Monday
SHOP = of_the_demo(NOON.date())


@cache
def of(name: str, glue: str = "water", dye: str = "none") -> Steps:
    return steps_of(demo.job(name), Rates(), School(glue, dye))


def named(steps: Steps, *words: str) -> str:
    """The key of the one step whose name has all of some words."""
    found = [doing.key for doing in steps.doings if all(word in doing.name for word in words)]
    assert found, words
    return found[0] if len(found) == 1 else min(found, key=len)


FACTS = {
    "eaves-blade": [
        ("the loop is sewn while the body lies flat", ("sew the loop",), ("glue the main",)),
        ("the mouth is out of reach once it is sewn", ("edge of body",), ("glue the main",)),
        ("the welt's inner edge is buried", ("edge of welt",), ("glue the main",)),
        ("a welt is thinned before its edge is finished", ("thin welt",), ("edge of welt",)),
        ("a stitch line lands on both faces of a true edge", ("true up the main",), ("pierce the main",)),
        ("wax comes last, and then it is tried", ("seal and wax",), ("try it",)),
    ],
    "radio": [
        ("a blank is moulded before it is trimmed", ("mould front blank",), ("trim front blank",)),
        ("its mouth is cut dry, and finished before it is sewn", ("trim front blank",), ("edge of front blank",)),
        ("both are finished before they are glued", ("edge of back blank",), ("glue the main",)),
        ("the welt's edge is buried", ("edge of welt",), ("glue the main",)),
    ],
    "laser-level": [
        ("straps' ends are sewn before the box is closed", ("sew the shoulder strap",), ("glue front seam",)),
        ("rivets want an anvil inside", ("set the hardware",), ("glue front seam",)),
        ("a tab's edge is finished before it is riveted on", ("edge of right ring tab",), ("set the hardware",)),
        ("foam is in before the gusset goes round", ("join side foam",), ("glue front seam",)),
        ("the front is on before the back closes it", ("sew front seam",), ("glue back seam",)),
    ],
    "whetstone": [
        ("a lining is in before the edge that both share is finished", ("join front lining",), ("edge of front",)),
        ("the notch is out of reach once it is sewn", ("edge of front",), ("glue the main",)),
        ("edges are burnished before wax", ("burnish",), ("seal and wax",)),
    ],
    "kit-bag": [
        ("pockets are sewn while the body is flat", ("sew pocket row on",), ("glue left seam",)),
        ("and so are the straps under it", ("sew right under strap on",), ("glue left seam",)),
        ("rims before the caps are sewn", ("front rim",), ("glue left seam",)),
        ("boards go in once it is sewn", ("sew right seam",), ("put the boards in",)),
    ],
    "peg-tray": [
        ("edges round a rivet are done before it is set", ("edge of tray",), ("set the hardware",)),
        ("corners are riveted before the board goes in", ("set the hardware",), ("put the boards in",)),
        ("cut before anything", ("cut out",), ("set the hardware",)),
    ],
    "crew-cards": [
        ("pockets are sewn on before the back closes", ("sew pocket 1 on",), ("glue the main",)),
        ("a pocket's mouth is finished before it is sewn on", ("edge of pocket 1",), ("pierce pocket 1",)),
        ("marked before it is cut", ("mark out",), ("cut out",)),
    ],
    "shears": [
        ("a loop is finished all round before it is sewn on", ("edge of loop",), ("pierce loop on",)),
        ("and sewn on while the back is flat", ("sew loop on",), ("glue the main",)),
        ("the moulded front is dry and cut before it is joined", ("trim front blank",), ("glue the main",)),
        ("a grommet wants an anvil behind the back", ("set the hardware",), ("glue the main",)),
    ],
    "spar-hook": [
        ("a blank that is moulded dries before its mouth is cut", ("mould back blank",), ("edge of back blank",)),
        ("a seam is pierced once all is trued as one", ("true up the main",), ("pierce the main",)),
        ("edges of the whole come after its seam", ("sew the main",), ("burnish",)),
    ],
    "stapler": [
        ("the plate is on the back before that is closed", ("sew belt plate on",), ("glue the main",)),
        ("its edges are out of reach on the back", ("edge of belt plate",), ("pierce belt plate on",)),
        ("mouths are finished before the seam", ("edge of front",), ("glue the main",)),
        ("nothing is tried that is not sewn", ("sew the main",), ("try it",)),
    ],
    "site-book": [
        ("rivets before the pockets hide their backs", ("set the hardware",), ("glue the front pocket",)),
        ("what is riveted on is finished first", ("edge of keeper",), ("set the hardware",)),
        ("a pocket's inner edge is out of reach once sewn", ("edge of back pocket",), ("glue the back pocket",)),
    ],
    "spar-bag": [
        ("handles are on while the sides lie flat", ("set the hardware",), ("glue the right side",)),
        ("what is turned in is thinned first", ("thin front handle",), ("set the hardware",)),
        ("a mouth is finished before it is rolled", ("edge of front",), ("glue the left side",)),
        ("corners are boxed once the bottom is sewn", ("sew the bottom",), ("glue the left corner of the front",)),
        ("the board goes in last of all", ("sew the left corner of the back",), ("put the boards in",)),
    ],
    "ridge-bag": [
        ("foam is on its panel before that is sewn", ("join front foam",), ("glue the front to the gusset",)),
        ("the edge beside a zip comes before the zip", ("edge of front zip strip",), ("pierce front zip strip",)),
        ("the zip is in while all is flat", ("sew back zip strip on",), ("glue the front to the gusset",)),
    ],
    "marking-gauge": [
        ("channels are sewn to a flat base", ("cut out",), ("sew channels",)),
        ("their upper edge is shut in by the stitches", ("edge of channels",), ("pierce channels",)),
        ("the edge of all comes after", ("sew channels",), ("burnish",)),
    ],
    "leggett": [
        ("a tie is sewn to the back alone", ("sew tie on",), ("glue the main",)),
        ("and the loop that it tucks into", ("sew tuck loop on",), ("glue the main",)),
        ("each is finished all round first", ("edge of tuck loop",), ("pierce tuck loop",)),
    ],
    "delivery-notes": [
        ("a lining is in before pockets are sewn over it", ("join lining",), ("glue the front pocket",)),
        ("a pocket's inner edge is out of reach once sewn", ("edge of front pocket",), ("glue the front pocket",)),
        ("the edge that all share comes once both are on", ("sew the back pocket",), ("burnish",)),
    ],
    "twine-spool": [
        ("rivets are set while the wall lies flat", ("set the hardware",), ("glue the right of the butt",)),
        ("and its rim finished", ("edge of wall",), ("fold wall",)),
        ("a wall is round before its bottom is sewn on", ("sew the left of the butt",), ("glue bottom seam",)),
        ("straps' ends are sewn while they are loose", ("sew the shoulder strap",), ("glue bottom seam",)),
    ],
    "old-pouch": [
        ("one side of a gusset before the other", ("sew the front",), ("glue the back",)),
        ("joined while it is tacky, and then trued", ("join the front",), ("true up the front",)),
        ("the edges of all at the end", ("sew the back",), ("burnish",)),
    ],
}  # fmt: skip
ORDERED = [(name, *fact) for name, facts in FACTS.items() for fact in facts]


@pytest.mark.parametrize(("name", "why", "first", "then"), ORDERED, ids=[f"{f[0]}: {f[1]}" for f in ORDERED])
def test_what_a_maker_does_first_comes_first(name: str, why: str, first: tuple[str], then: tuple[str]) -> None:
    steps = of(name)
    assert named(steps, *first) in steps.earlier(named(steps, *then)), why
    assert named(steps, *then) not in steps.earlier(named(steps, *first))


MISTAKES = [
    ("laser-level", ("glue front seam",), ("sew the shoulder strap",), "shut in"),
    ("laser-level", ("glue front seam",), ("set the hardware",), "no anvil"),
    ("eaves-blade", ("glue the main",), ("edge of welt",), "buried"),
    ("radio", ("glue the main",), ("trim back blank",), "dry"),
    ("laser-level", ("glue front seam",), ("join side foam",), "lines"),
    ("eaves-blade", ("sew the main",), ("pierce the main",), "pierced"),
    ("whetstone", ("seal and wax",), ("burnish",), "wax keeps"),
]


@pytest.mark.parametrize(("name", "then", "first", "why"), MISTAKES)
def test_what_is_done_too_soon_is_told_with_why(name: str, then: tuple[str], first: tuple[str], why: str) -> None:
    steps = of(name)
    key, before = named(steps, *then), named(steps, *first)
    others = {doing.key for doing in steps.doings} - {before, key}
    (missing,) = steps.missing(key, others)
    assert missing.before == before
    assert why in missing.why
    assert steps.missing(key, others | {before}) == []


@pytest.mark.parametrize("name", demo.names())
def test_every_demo_has_steps_that_can_be_done_and_minutes_that_are_counted(name: str) -> None:
    drafted = draft(demo.job(name))
    steps = derived(drafted)
    keys = [doing.key for doing in steps.doings]
    assert len(set(keys)) == len(keys)
    assert all(f.before in keys and f.after in keys for f in steps.follows)
    assert all(key not in steps.earlier(key) for key in keys)  # nothing waits for itself
    assert {"mark", "cut"} <= steps.earlier("try")
    assert steps.earlier("try") == set(keys) - {"try"}  # everything is done before it is tried
    assert [key for key in keys if not any(f.after == key for f in steps.follows)] == ["mark"]
    counted = {"pierce": "pierce", "sew": "sew", "hardware": "hardware", "mould": "mould"}
    work = {deed.name: deed.minutes for deed in labour(drafted)}
    for begin, deed in counted.items():
        mine = sum(d.minutes for d in steps.doings if d.key.split()[0] == begin)
        assert mine == pytest.approx(work.get(deed, 0.0)), begin
    edges = sum(d.minutes for d in steps.doings if d.key.split()[0] in ("edge", "edges"))
    assert edges >= work.get("edges", 0.0) - 1e-9
    assert sum(d.minutes for d in steps.doings) < 1.6 * minutes(labour(drafted)) + 40
    whole = {(n.kind, n.name, n.size): n.amount for n in needs([Made(drafted, name)])}
    taken = {(n.kind, n.name, n.size): n.amount for n in together(n for d in steps.doings for n in d.takes)}
    assert set(taken) <= set(whole)
    for what, amount in whole.items():  # all of it, by the steps; of glue what is glued in them
        mine = taken.get(what, 0.0)
        assert mine == pytest.approx(amount) or (what[0] == "glue" and mine < amount), what


def test_schools_change_what_comes_before_what() -> None:
    before, after = of("whetstone", dye="before"), of("whetstone", dye="after")
    thread = named(before, "sew the main")
    assert "dye" in before.earlier(thread)  # light thread is never dyed
    assert thread in after.earlier("dye")
    assert "dye" in after.earlier("wax")
    for steps, then in ((before, named(before, "glue the main")), (after, "wax")):
        (dries,) = [f for f in steps.follows if f.before == "dye" and f.after == then and f.least]
        assert (dries.least, dries.place) == (240, "line")
    for school, glue in GLUES.items():
        steps = of("eaves-blade", glue=school)
        spread, joined = named(steps, "glue the main"), named(steps, "join the main")
        (open_,) = [f for f in steps.follows if (f.before, f.after) == (spread, joined)]
        assert (open_.least, open_.most) == (glue.tack, glue.latest)
        held = [f for f in steps.follows if f.before == joined and f.place == "clamps"]
        assert [f.least for f in held] == ([45] if school == "pva" else [])
    assert "no flame" in of("eaves-blade", glue="solvent")["glue the main seam"].caution
    with pytest.raises(InputError, match="no school"):
        School("spit")


def test_leather_moulded_wet_dries_a_day_before_its_edges_and_wax() -> None:
    job = demo.job("stapler").typed("mould.method", "fingers")
    drafted = draft(job)
    steps = derived(drafted, zones={ZoneKind.TRIGGER})
    wet = [doing.key for doing in steps.doings if doing.name.startswith("wet and mould")]
    assert wet
    for key in wet:
        (dries,) = [f for f in steps.follows if f.before == key and f.place == "forms"]
        assert dries.least == 24 * 60
        assert key in steps.earlier("edges")
        assert "rusts" in steps[key].caution
    assert steps["try"].caution == LIVE
    assert of("eaves-blade")["try"].caution == (BLADE if demo.job("eaves-blade").zones else "")


def test_orders_are_planned_in_the_hours_there_are() -> None:
    orders = [order for order in SHOP.orders if order.open]
    load = workload(orders, SHOP.hands, SHOP.rates, School(), NOON, lambda job, rates, school: of(key_of(job.name)))
    things = sum(order.many for order in orders)
    assert sum(1 for id_ in load.tasks if id_.endswith("/try")) == things
    plan, _ = planned(load.work, 0, None, 4)
    assert not list(broken(load.work, plan))
    for id_, spells in plan.steps.items():
        for spell in spells:
            begin = load.when(spell.start)
            assert begin >= NOON
            hours = (18, 21) if spell.person == "the maker" else (9, 13)
            assert hours[0] <= begin.hour
            assert load.when(spell.end) <= begin.replace(hour=hours[1], minute=0)
            assert (begin.weekday() == 5) == (spell.person == "the helper"), id_
    ready = load.ready(plan)
    assert set(ready) == {order.id for order in orders}
    assert all(ready[order.id].date() <= order.due for order in orders)  # there is time enough


def key_of(name: str) -> str:
    return next(key for key in demo.names() if demo.job(key).name == name)


def test_a_day_off_is_free_and_what_is_past_is_past() -> None:
    hand = Hand("h", "h", ((0, 600, 700), (0, 800, 900), (2, 600, 660)), off=(date(2026, 5, 6),))
    monday = date(2026, 5, 4)
    day = 24 * 60
    assert hand.windows(monday, 8) == (
        (600, 700),
        (800, 900),
        (7 * day + 600, 7 * day + 700),
        (7 * day + 800, 7 * day + 900),
    )
    assert hand.windows(monday, 7, now=650) == ((650, 700), (800, 900))
    assert hand.windows(monday, 7, now=690) == ((800, 900),)  # ten minutes are not worth beginning for
    for wrong in (((0, 600, 500),), ((7, 1, 2),), ((0, 0, 1500),), ((0, 600, 700), (0, 650, 800))):
        with pytest.raises(InputError, match="cannot be"):
            Hand("h", "h", wrong)
    order = Order("o", "o", lines=(Line(demo.job("peg-tray")),))
    with pytest.raises(InputError, match="nobody works"):
        workload([order], [Hand("h", "h", ())], Rates(), School(), NOON)
    late = workload(
        [replace(order, wanted=monday)], [Hand("h", "h")], Rates(), School(), NOON, lambda *_: of("peg-tray")
    )
    assert late.work.orders[0].due == day  # the end of that day


def test_hours_are_typed_as_one_says_them() -> None:
    evenings = tuple((day, 18 * 60, 21 * 60) for day in range(5))
    assert hours("Mon-Fri 18:00-21:00, Sat 9-13:30") == (*evenings, (5, 540, 810))
    assert hours("wednesday 7 - 8") == ((2, 420, 480),)
    assert hours("") == ()
    for wrong in ("Mon", "Fri-Mon 9-10", "Someday 9-10", "Mon 9:5-10", "Mon 9-"):
        with pytest.raises(InputError, match="are no hours"):
            hours(wrong)


def test_the_calendar_tells_every_hour_of_hands() -> None:
    order = Order("o", "A tray; and, more", lines=(Line(demo.job("peg-tray")),))
    load = workload([order], SHOP.hands, Rates(), School(), NOON, lambda *_: of("peg-tray"))
    plan, _ = planned(load.work, 0, None, 2)
    text = calendar.to_bytes(load, plan).decode().replace("\r\n ", "")  # long lines are folded
    events = [
        dict(line.split(":", 1) for line in each.split("\r\n") if ":" in line)
        for each in text.split("BEGIN:VEVENT")[1:]
    ]
    spells = [spell for each in plan.steps.values() for spell in each]
    assert len(events) == len(spells)
    hours = sorted((e["DTSTART"], e["DTEND"]) for e in events)
    stamp = "%Y%m%dT%H%M%S"
    assert hours == sorted((load.when(s.start).strftime(stamp), load.when(s.end).strftime(stamp)) for s in spells)
    assert len({e["UID"] for e in events}) == len(events)
    assert any("A tray\\; and\\, more" in e["DESCRIPTION"] for e in events)
    assert all(a <= b for a, b in pairwise(sorted(e["DTSTART"] for e in events)))
    assert NOON + timedelta(0) <= min(load.when(s.start) for s in spells)
    read = vobject.readOne(calendar.to_bytes(load, plan).decode()).vevent_list  # as another library reads it
    told = sorted((e.dtstart.value.replace(tzinfo=None), e.dtend.value.replace(tzinfo=None)) for e in read)
    assert told == sorted((load.when(s.start), load.when(s.end)) for s in spells)
    assert all("A tray; and, more" in e.description.value for e in read)


@pytest.mark.parametrize(
    "text",
    [
        "Mon-Fri 18:00-21:00",
        "Mon 9:00-10:00, Wed 9:00-10:00",
        "Mon 9:30-12:00, Tue-Wed 18:00-20:00, Sat 9:00-24:00",
        "",
    ],
)
def test_hours_are_said_as_they_are_typed(text: str) -> None:
    assert hours_said(hours(text)) == text
    assert days_off("24.12., 2026-05-06,, in 2 days", date(2026, 5, 4)) == (date(2026, 5, 6), date(2026, 12, 24))


@pytest.mark.parametrize("way", ["wet", "gouged", "skived"])
def test_a_fold_tells_how_long_and_how_deep_it_is(way: str) -> None:
    made = draft(demo.job("peg-tray"))
    steps = derived(made, Rates(), School(fold=way))
    (piece,) = [p for p in made.unmarked().pieces if len(p.folds)]
    long = sum(float(np.hypot(*np.diff(line, axis=0).T).sum()) for line in piece.folds) / 1000
    told = [step for step in steps.doings if step.key.startswith("fold") and piece.name in step.pieces]
    assert told
    for step in told:
        assert step.why == f"{len(piece.folds)} folds, {long:.2f} m"
    thin = [step for step in told if "thin" in step.key]
    assert len(thin) == (way != "wet")
    for step in thin:
        assert 0.2 * piece.thickness < float(step.tools.split()[0]) < 0.8 * piece.thickness
