"""What jobs need and cost, held against sums that are worked here by hand, from the report of each draft."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pdfplumber
import pytest
import shapely

from tailor import demo
from tailor.core.bench.labour import Rates, labour
from tailor.core.bench.supplies import Kind, Need, together
from tailor.core.carried.traced import Traced
from tailor.core.checks.verdict import Ruling
from tailor.core.errors import InputError
from tailor.core.job import draft, judge
from tailor.core.maker import usual as maker
from tailor.core.shop.drafts import Drafts
from tailor.core.shop.leathers import Skin, Sort, Use, meant
from tailor.core.shop.made import leathers, made, ordered
from tailor.core.shop.needs import needs, still
from tailor.core.shop.orders import Line, Order, State, day, from_now
from tailor.core.shop.progress import Worked
from tailor.core.shop.quote import Terms, quote
from tailor.core.shop.reckoner import reckoned
from tailor.core.shop.reckoning import Reckon
from tailor.core.shop.stock import Article, Used, against, amounts, shopping, used_up
from tailor.demo.shop import shop as of_the_demo
from tailor.files import order_sheet
from tailor.files.report import report

SHOP = of_the_demo(date(2026, 5, 4))
PRICES = {  # as they stand in the demo's stock, by hand
    ("rapid rivet 7", 8.0): 0.12, ("rapid rivet 9", 9.0): 0.16, ("rapid rivet 9", 7.0): 0.15, ("snap 12", 4.5): 0.38,
    ("grommet 5", 4.5): 0.18, ("d-ring 20", None): 0.70, ("buckle 20", None): 2.40,
}  # fmt: skip
BY_SHEET = {"foam": 11.0, "board": 9.0, "card": 1.2}  # of a square metre, 6 mm foam
BY_LEATHER = {3.0: 62.0, 2.0: 54.0, 1.8: 48.0, 2.2: 54.0, 2.4: 54.0}  # 1.8 mm is wanted soft


def told(name: str) -> dict:
    """The report of a demo job, which is what a hand would reckon from."""
    job = demo.job(name)
    drafted = draft(job)
    return report(job, drafted, judge(job, drafted))


def by_hand(name: str) -> dict[str, float]:
    """What one of a demo job comes to: leather, what is used up, and hours, each by plain arithmetic."""
    found = told(name)
    pieces = [p for p in found["pieces"] if p["name"] != "template"]
    money = 0.0
    for piece in found["pieces"]:
        area = piece["area"] * piece["count"] / 1e6
        if piece["leather"] in ("body", "welt"):
            money += area / 0.75 * BY_LEATHER[round(piece["thickness"], 2)]
        elif piece["leather"] == "lining":
            money += area / 0.75 * 33.0
        else:
            money += area * 1.1 * BY_SHEET[piece["leather"]]
    money += sum(PRICES[item["name"], item["post"]] for item in found["hardware"])
    by_metre = 0.09 if found["job"]["settings"]["stitch.thread"] == 0.6 else 0.11
    money += sum(seam["thread"] for seam in found["seams"]) / 1000 * by_metre
    margin = next((r["value"] for r in found["reasons"] if r["name"] == "seam.margin"), 0.0)
    sheets = [p for p in pieces if p["leather"] in ("lining", "foam", "board")]
    layers = sum(len(s.edges) - 1 for s in draft(demo.job(name)).seams)
    glued = sum(
        row["length"] * margin * (len(s.edges) - 1)
        for row, s in zip(found["seams"], draft(demo.job(name)).seams, strict=True)
    )
    glued = (glued + sum(p["area"] * p["count"] for p in sheets)) / 1e6
    money += glued * 250 * 0.03
    around = sum(shapely.Polygon(p["cut"]).exterior.length * p["count"] for p in pieces)
    around += sum(shapely.Polygon(ring).exterior.length * p["count"] for p in pieces for ring in p["openings"])
    minutes = 10 + 3 * sum(p["count"] for p in pieces) + 4 * around / 1000
    minutes += 3 * (layers + sum(p["count"] for p in sheets)) + 60 * glued
    minutes += 1.15 * sum(seam["seconds"] for seam in found["seams"]) / 60 + 2.5 * len(found["hardware"])
    drawn, border = (  # m of what is tooled: traced, cut and bevelled; or only cut
        sum(shapely.LineString(t["points"]).length for p in pieces for t in p["tooled"] if t["kind"] in kinds) / 1000
        for kinds in (("picture", "mark"), ("border",))
    )
    minutes += (3 + 4 * drawn + 10 * drawn) * (drawn > 0) + 8 * (drawn + border)
    minutes += 25 * any("blank" in p["name"] or "moulded" in p["name"] for p in pieces)
    return {"money": money, "minutes": minutes, "around": around}


@pytest.mark.parametrize("id_", ["kit-1", "kit-2", "repair"])
def test_an_order_costs_what_a_hand_reckons(id_: str) -> None:
    things = ordered(SHOP.order(id_))
    found = quote(things, SHOP.sorts, SHOP.stock, SHOP.terms, SHOP.rates)
    hands = [by_hand(name) for name in {"kit-1": ("eaves-blade", "shears", "radio"),
             "kit-2": ("whetstone", "laser-level", "peg-tray"), "repair": ("old-pouch",)}[id_]]  # fmt: skip
    work = [item for item in found.items if item.unit == "h"]
    rest = [item for item in found.items if item.unit != "h"]
    assert not found.unpriced
    assert sum(item.sum for item in rest) == pytest.approx(sum(h["money"] for h in hands), abs=0.01 * len(rest))
    for item, thing, hand in zip(work, things, hands, strict=True):
        others = {"pierce", "edges", "cut"}  # counted below, by what they are counted of
        own = sum(deed.minutes for deed in labour(thing.draft) if deed.name not in others)
        assert own == pytest.approx(hand["minutes"] - 4 * hand["around"] / 1000, abs=0.01)
        counted = {deed.name: deed.minutes for deed in labour(thing.draft, SHOP.rates)}
        most = item.why.removeprefix("most of it: ").split(", ")
        assert [counted[name] for name in most] == sorted(counted.values())[:-4:-1]
        assert item.sum == pytest.approx(28 * sum(deed.minutes for deed in labour(thing.draft)) / 60, abs=0.006)
    assert found.total == pytest.approx(1.15 * sum(item.sum for item in found.items), abs=0.011)


def test_work_is_counted_on_the_draft() -> None:
    drafted = draft(demo.job("whetstone"))
    deeds = {deed.name: deed for deed in labour(drafted)}
    assert deeds["pierce"].amount == sum(len(piece.holes) for piece in drafted.unmarked().pieces)
    assert deeds["cut"].amount * 1000 == pytest.approx(by_hand("whetstone")["around"])
    # Front and back are sewn together nearly all round: their edges are finished as one, and the mouth's by themselves.
    outer = shapely.Polygon(drafted.piece("front").cut).exterior.length
    assert outer < deeds["edges"].amount * 1000 < 2 * outer - 0.9 * drafted.seams[0].length
    twice = quote([made(demo.job("whetstone"), 2)], SHOP.sorts, SHOP.stock, SHOP.terms)
    once = quote([made(demo.job("whetstone"))], SHOP.sorts, SHOP.stock, SHOP.terms)
    assert twice.net == pytest.approx(2 * once.net, abs=0.05)


def test_what_has_no_price_is_said_and_not_taken_for_nothing() -> None:
    thing = made(demo.job("eaves-blade"))
    found = quote([thing], (), (), Terms(hour=0, margin=0))
    assert found.total == 0
    assert {item.what for item in found.unpriced} == {"body leather 3 mm, firm", "thread 0.8 mm", "glue"}


def test_needs_are_met_from_stock_or_bought() -> None:
    rivets = Need(Kind.HARDWARE, "rapid rivet 9", 9.0, 4, "tray")
    more = Need(Kind.HARDWARE, "rapid rivet 9", 9.0, 3, "bag")
    thread = Need(Kind.THREAD, "thread", 0.8, 6.5, "tray")
    stock = (
        Article("a", Kind.HARDWARE, "rapid rivet 9", 9.0, 2, 0.2), Article("b", Kind.HARDWARE, "rapid rivet 9", 9.0, 3),
        Article("c", Kind.HARDWARE, "rapid rivet 9", 7.0, 50, 0.1), Article("d", Kind.THREAD, "linen", 0.8, 40, 0.1),
        Article("e", Kind.THREAD, "linen", 0.6, 40, 0.1),
    )  # fmt: skip
    assert [need.amount for need in together([rivets, more])] == [7]
    wants = against([rivets, thread, more], stock)
    assert [(w.need.why, w.there, w.buy) for w in wants] == [("tray, bag", 5, 2), ("tray", 40, 0)]
    assert [want.need.name for want in shopping(wants)] == ["rapid rivet 9"]
    used = used_up(wants)
    assert {was.id: (was.there, now.there) for was, now in used} == {"a": (2, 0), "b": (3, 0), "d": (40, 33.5)}
    on_the_way = [Used("a", 2), Used("d", 4.0), Used("d", 1.5), Used("c", 9)]  # of posts that do not serve: none
    assert [(n.name, n.amount) for n in still(together([rivets, more, thread]), on_the_way, stock)] == [
        ("rapid rivet 9", 5), ("thread", 1.0)]  # fmt: skip
    assert still([rivets], [Used("a", 2), Used("b", 3)], stock) == ()
    assert dict(amounts(used)) == {"a": 2, "b": 3, "d": 6.5}
    with pytest.raises(InputError, match="-3 cannot be"):
        Article("x", Kind.OTHER, "wax", there=-3)


def test_a_leather_is_meant_by_its_thickness_and_temper() -> None:
    sorts = (Sort("a", "a", 3.0), Sort("b", "b", 2.6), Sort("c", "c", 3.0, "soft"), Sort("d", "d", 0.8, use=Use.LINING))
    assert meant(sorts, Use.BODY, 2.9, "firm") is sorts[0]
    assert meant(sorts, Use.BODY, 2.75, "firm") is sorts[1]
    assert meant(sorts, Use.BODY, 2.75, "soft") is sorts[2]
    assert meant(sorts, Use.BODY, 3.5, "firm") is None
    assert meant(sorts, Use.LINING, 0.8, "firm") is sorts[3]  # a lining's temper is its own


def test_an_order_takes_the_job_as_it_was() -> None:
    job = demo.job("peg-tray")
    order = Order("a", "trays").with_job(job, 2).with_job(job)
    assert [(line.job, line.count) for line in order.lines] == [(job, 3)]
    wider = job.typed("inside.across", "300")
    assert [line.count for line in order.with_job(wider).lines] == [3, 1]
    assert order.many == 3
    with pytest.raises(InputError, match="0 are ordered"):
        order.with_job(wider, 0)


def test_the_demo_shop_is_one_that_can_be_worked_from() -> None:
    assert all(sort is not None for order in SHOP.orders for sort in
               (each.sort for each in leathers(ordered(order), SHOP.sorts)))  # fmt: skip
    short = shopping(against(needs([t for order in SHOP.orders if order.open for t in ordered(order)]), SHOP.stock))
    assert {want.need.said for want in short} == {"rapid rivet 9, post 9", "snap 12, post 4.5"}
    jobs = [line.job for order in SHOP.orders for line in order.lines]
    assert not any(verdict.ruling is Ruling.STOP for job in jobs for verdict in judge(job, draft(job)))
    assert Skin("x", "firm-3", SHOP.skins[0].hide).area < 2.1e6  # its marks are no leather


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("", None), ("today", date(2026, 12, 20)), ("in 9 days", date(2026, 12, 29)), ("3w", date(2027, 1, 10)),
        ("+2 days", date(2026, 12, 22)), ("24.12.", date(2026, 12, 24)), ("2. 1.", date(2027, 1, 2)),
        ("20.12.", date(2026, 12, 20)), ("2027-02-28", date(2027, 2, 28)),
    ],
)  # fmt: skip
def test_a_day_is_typed_as_one_says_it(text: str, said: date | None) -> None:
    assert day(text, date(2026, 12, 20)) == said


@pytest.mark.parametrize("text", ["soon", "31.2.", "2026-13-01", "in days", "in 99999 days", "29.2."])
def test_what_is_no_day_is_told(text: str) -> None:
    with pytest.raises(InputError, match="is no day"):
        day(text, date(2026, 12, 20))


def test_how_far_off_a_day_is_is_said_in_words() -> None:
    today = date(2026, 12, 31)
    said = [from_now(today + timedelta(days=n), today) for n in (-3, -1, 0, 1, 2)]
    assert said == ["3 days ago", "yesterday", "today", "tomorrow", "in 2 days"]


def test_an_order_goes_one_step_further_and_things_leave_it() -> None:
    stone, tray = demo.job("whetstone"), demo.job("peg-tray")
    order = Order("a", "all").with_job(stone, 2).with_job(tray)
    steps = [order.state]
    while (order.onward.state, order.open) != (order.state, False):
        order = order.onward
        steps.append(order.state)
    assert steps == [State.ASKED, State.TAKEN, State.READY, State.GONE]
    assert [o.open for o in (replace(order, state=s) for s in State)] == [True, True, False, False, False]
    assert [(line.job, line.count) for line in order.with_count(stone, 5).lines] == [(stone, 5), (tray, 1)]
    assert [line.job for line in order.with_count(stone, 0).lines] == [tray]
    assert replace(order, wanted=date(2026, 1, 5), promised=date(2026, 1, 9)).due == date(2026, 1, 9)


def test_orders_are_reckoned_one_by_one_and_what_fails_stops_none() -> None:
    bad = replace(demo.job("old-pouch"), traced=Traced())  # there are no panels to go by
    failing = Order("bad", "one that cannot be", lines=(Line(bad),))
    with pytest.raises(InputError):
        made(bad)
    shop = replace(SHOP, orders=(failing, replace(SHOP.order("kit-1"), state=State.GONE), SHOP.order("fair")))
    found = {each.order: each for each in reckoned(Reckon(shop, maker()), Drafts())}
    assert list(found) == ["bad", "fair", "kit-1", ""]  # what is still to be made first
    assert found["bad"].said
    assert found["bad"].quote is None
    for id_ in ("kit-1", "fair"):
        things = ordered(SHOP.order(id_))
        assert found[id_].quote == quote(things, SHOP.sorts, SHOP.stock, SHOP.terms, SHOP.rates)
    cards = needs(ordered(SHOP.order("fair")))
    assert [w.need for w in found["fair"].wants] == list(cards)
    short = shopping(against(cards, SHOP.stock))  # of what is handed over nothing more is needed
    assert [want.need.said for want in found[""].wants] == [want.need.said for want in short]


def test_a_post_is_the_one_that_is_needed_and_sheets_are_as_thick() -> None:
    snap = Article("s", Kind.HARDWARE, "snap 10", 4.0)
    assert snap.serves(Need(Kind.HARDWARE, "snap 10", 4.0, 1, ""))
    assert not snap.serves(Need(Kind.HARDWARE, "snap 10", 4.5, 1, ""))
    assert not snap.serves(Need(Kind.HARDWARE, "snap 12", 4.0, 1, ""))
    foam = Article("f", Kind.FOAM, "whatever it is called", 6.0)
    assert [foam.serves(Need(Kind.FOAM, "foam", thick, 1, "")) for thick in (5.8, 6.2, 6.5)] == [True, True, False]
    assert not foam.serves(Need(Kind.BOARD, "board", 6.0, 1, ""))


def test_every_piece_of_foam_and_every_opening_counts() -> None:
    level = made(demo.job("laser-level"), 3)
    areas = {p.name: shapely.Polygon(p.cut).area * p.count for p in level.draft.pieces if p.leather == "foam"}
    assert any(p.count > 1 for p in level.draft.pieces if p.leather == "foam")
    (foam,) = [need for need in needs([level]) if need.kind is Kind.FOAM]
    assert foam.amount == pytest.approx(3 * 1.1 * sum(areas.values()) / 1e6)
    rings = [r for p in level.draft.pieces for r in (p.cut, *p.openings) for _ in range(p.count)]
    assert any(p.openings for p in level.draft.pieces)
    (cut,) = [deed for deed in labour(level.draft) if deed.name == "cut"]
    assert cut.amount * 1000 == pytest.approx(sum(shapely.Polygon(ring).exterior.length for ring in rings))


def test_a_knife_is_set_anew_at_corners_and_not_along_a_curve() -> None:
    drafted = draft(demo.job("peg-tray"))
    turns = np.linspace(0, 2 * np.pi, 90)[:-1]
    square = np.array([(0.0, 0.0), (90.0, 0.0), (90.0, 90.0), (0.0, 90.0)])
    round_ = 45 * np.column_stack([np.cos(turns), np.sin(turns)])
    works = []
    for ring in (square, round_):
        pieces = (replace(drafted.pieces[0], cut=ring, openings=()),)
        only = replace(drafted, pieces=pieces, whole=pieces, seams=(), hardware=())
        (cut,) = [deed for deed in labour(only, Rates(cut=0.0, corner=1.0)) if deed.name == "cut"]
        works.append(cut.minutes)
    assert works == [4.0, 0.0]


def test_an_order_sheet_tells_what_to_cut_and_what_is_missing(tmp_path) -> None:
    order = replace(SHOP.order("Crew's kit, second lot"), note="the strap long")
    order_sheet.write(order, SHOP, out := tmp_path / "sheet.pdf")
    with pdfplumber.open(out) as pdf:
        text = "\n".join(page.extract_text() for page in pdf.pages)
        drawn = sum(len(page.curves) + len(page.rects) for page in pdf.pages)
        red = [c["text"] for page in pdf.pages for c in page.chars if c["non_stroking_color"] != pdf.pages[0].chars[0][
            "non_stroking_color"]]  # fmt: skip
    for said in (order.name, order.note, f"for {order.whom}", "wanted"):
        assert said in text
    pieces = 0
    for line in order.lines:
        assert f"{line.count} × {line.job.name}" in text
        for piece in told_pieces(line.job.name):
            pieces += 1
            wide, high = np.ptp(np.array(piece["cut"]), axis=0)
            assert f"{piece['count'] * line.count} × {piece['name']}, {wide:.1f} mm by {high:.1f} mm" in text
    assert drawn >= pieces
    assert "to buy: 3 pieces" in text
    taken = used_up(against(needs(ordered(order)), SHOP.stock))  # by its steps: no more is lacking for that
    left = {was.id: now for was, now in taken}
    work = Worked("all", order.id, "", "all of it", "", 1.0, used=amounts(taken))
    later = replace(SHOP, stock=tuple(left.get(a.id, a) for a in SHOP.stock), worked=(*SHOP.worked, work))
    order_sheet.write(order, later, out)
    with pdfplumber.open(out) as pdf:
        after = "\n".join(page.extract_text() for page in pdf.pages)
    assert after == text
    assert "rapid rivet 9" in "".join(red)
    with pytest.raises(InputError, match="is not written as"):
        order_sheet.write(order, SHOP, tmp_path / "sheet.csv")


def told_pieces(name: str) -> list[dict]:
    """The pieces of leather of a demo job by its name, as the report tells them."""
    key = next(key for key in demo.names() if demo.job(key).name == name)
    return [piece for piece in told(key)["pieces"] if "template" not in piece["name"]]


def test_an_order_takes_the_newer_of_a_thing_and_keeps_what_was_done_of_it() -> None:
    order = SHOP.order("Crew's kit, second lot")
    nth = next(n for n, line in enumerate(order.lines) if line.job.name == "Laser level")
    newer = order.lines[nth].job.typed("leather.thickness", "2.6")
    found = order.with_newer(nth, newer)
    assert [line.mark for line in found.lines] == [line.mark for line in order.lines]
    assert [line.job for n, line in enumerate(found.lines) if n != nth] == [
        line.job for n, line in enumerate(order.lines) if n != nth
    ]
    assert found.lines[nth] == replace(order.lines[nth], job=newer)
    for job, why in ((order.lines[nth].job, "just so already"), (order.lines[nth - 1].job, "that is")):
        with pytest.raises(InputError, match=why):
            order.with_newer(nth, job)
