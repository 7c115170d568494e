"""Parts cut from leathers of their own: put together from their flat pieces they still meet, layer on layer."""

from __future__ import annotations

import numpy as np
import pytest
from shapely import LineString, Polygon

from tailor import demo
from tailor.core.draft.draft import Fitted
from tailor.core.draft.parts.own_loop import FOOT
from tailor.core.draft.views.belted import belted
from tailor.core.draft.views.upright import upright
from tailor.core.job import draft, judge
from tailor.core.shop.made import leathers, made
from tailor.core.together.assembled import Assembled
from tailor.demo.shop import SORTS
from tests.lofts import typed
from tests.sweeps import some

CARD = 2.4  # mm that lies in each pocket of the crew's cards


@pytest.mark.parametrize(
    ("part", "name", "pieces", "pins"),
    [
        ("gusset", "laser-level", {"gusset"}, {}),
        ("gusset", "laser-level", {"gusset"}, {"gusset__flange": "in"}),
        ("strap", "laser-level", {"shoulder strap", "buckle strap", "right ring tab", "left ring tab", "handle"}, {}),
        ("strap", "kit-bag", {"right under strap", "left under strap"}, {}),
        ("strap", "radio", {"keeper"}, {"keeper__way": "over", "loop__landing": "none"}),
        ("strap", "marking-gauge", {"tie"}, {}),
        ("strap", "leggett", {"tie", "tuck loop"}, {}),
        ("loop", "radio", {"ring tab", "dangler"}, {"loop__landing": "dangler"}),
        ("loop", "radio", {"loop"}, {"loop__landing": "sewn", "loop__foot": "snap 10", "belt__width": "15"}),
        ("loop", "stapler", {"belt plate"}, {}),
        ("pocket", "crew-cards", {"pocket 1", "pocket 2", "front"}, {}),
        ("pocket", "site-book", {"front pocket", "back pocket"}, {}),
        ("pocket", "delivery-notes", {"front pocket", "back pocket"}, {}),
        ("pocket", "marking-gauge", {"channels"}, {}),
        ("pocket", "kit-bag", {"pocket row"}, {"pocket__count": "3"}),
        ("pocket", "whetstone", {"pocket"}, {"patch__on": "front", "patch__kind": "pocket"}),
    ],
)
@pytest.mark.parametrize("thick", some([0.6, 1.4]))
def test_a_part_of_another_leather_still_meets_what_it_is_joined_to(
    part: str, name: str, pieces: set[str], pins: dict[str, str], thick: float
) -> None:
    plain = typed(demo.job(name), **pins)
    body = plain.settings.number("leather.thickness")
    case = draft(plain.typed(f"{part}.thickness", f"{thick * body:.3f} mm")).unmarked()
    assert {p.name for p in case.pieces if p.thickness == pytest.approx(thick * body, abs=2e-3)} == pieces
    whole = Assembled(case)
    assert max((met.distance for met in whole.seams), default=0.0) <= 0.3
    assert max((met.distance for met in whole.fastened), default=0.0) <= 0.5
    assert max((met.distance for met in whole.shut), default=0.0) <= 0.5
    for each in whole.layered:  # what a post goes through, by the pieces that lie there
        assert each.thickness == pytest.approx(each.told, abs=0.01)
    sheets = {p.name: p.thickness for p in case.pieces}
    known = whole.pieces
    for seam in case.seams:  # middle to middle they lie half of either apart
        if len(seam.pieces) == 2 == len(seam.edges) and pieces & set(seam.pieces) & set(case.lies):
            ways = [(name, edge) for name in seam.pieces for edge in seam.edges]
            rows = [(n, known[n].holes_of(seam.name, e)) for n, e in ways if len(known[n].holes_of(seam.name, e))]
            if len(rows) == 2 and all(n in case.lies for n, _ in rows):
                one, other = (case.lies[n](holes) for n, holes in rows)
                apart = np.median(np.abs(((other.at - one.at) * one.out).sum(axis=1)))
                between = 0.0
                if name == "crew-cards":  # a card lies in every pocket, and the pockets on one another
                    nth = [n for n in known if n != "back"].index(next(n for n, _ in rows if n != "back"))
                    between = (nth + 1) * CARD + nth * thick * body
                assert apart == pytest.approx(between + sum(sheets[n] for n, _ in rows) / 2, abs=0.12)
    fitted = [(n, f) for n in case.lies for f in known[n].fittings if f.place]
    for n, f in fitted:  # riveted, its nearer leg lies so on what it is riveted to
        others = {(o, g) for o, g in fitted if g.place == f.place and o != n}
        if n in pieces and len(others) == 1:
            ((other, on),) = others
            under = case.lies[other](np.array([[on.x, on.y]]))
            legs = [case.lies[n](np.array([[g.x, g.y]])).at for o, g in fitted if o == n and g.place == f.place]
            apart = min(abs(float(((leg - under.at) * under.out).sum())) for leg in legs)
            assert apart == pytest.approx((sheets[n] + sheets[other]) / 2, abs=0.12)
    for item in case.hardware:
        if item.place.startswith(FOOT):
            assert item.stack == pytest.approx(sheets["loop"] + body)
    for seam in case.seams:  # of two pieces, each once
        if len(seam.pieces) == 2 == len(seam.edges) and pieces & set(seam.pieces):
            assert seam.stack == pytest.approx(sum(sheets[n] for n in seam.pieces), abs=0.01)


def test_a_strap_round_a_thing_is_longer_by_the_turn_of_what_it_is_thicker() -> None:
    pins = {"keeper__way": "round", "loop__landing": "none", "back__above": "40 mm"}
    thin, thick = (draft(typed(demo.job("shears"), strap__thickness=f"{t} mm", **pins)) for t in (1.5, 3.5))
    assert thick.value("keeper.girth") - thin.value("keeper.girth") == pytest.approx(2 * np.pi * 1.0, abs=1e-6)
    climbs = [made.reasons["keeper.length"].inputs["climbs"] for made in (thin, thick)]  # over its own end
    assert climbs[1] > 2 * climbs[0] > 0
    longer = thick.value("keeper.length") - thin.value("keeper.length")
    assert longer == pytest.approx(2 * np.pi * 1.0 + climbs[1] - climbs[0], abs=1e-6)
    assert "body" in thick.reasons["strap.thickness"].inputs


def test_a_slice_shows_each_leather_as_thick_as_it_is() -> None:
    job = typed(demo.job("radio"), loop__landing="sewn", loop__thickness="3.1 mm", belt__width="15")
    made = draft(job)
    assert isinstance(made, Fitted)
    cut = belted(made, job.settings)
    assert cut is not None
    along = LineString(cut.neutral).length
    assert Polygon(cut.loop).area / along == pytest.approx(3.1, rel=0.03)
    job = typed(demo.job("radio"), keeper__way="over", loop__landing="none", strap__thickness="3.1 mm")
    made = draft(job)
    assert isinstance(made, Fitted)
    seen = upright(made, job.settings)
    assert seen is not None
    assert Polygon(seen.leather[2]).area / LineString(seen.dashed[0]).length == pytest.approx(3.1, rel=0.05)


def test_a_thick_plate_wants_more_leather_round_its_slots() -> None:
    jobs = {t: typed(demo.job("stapler"), loop__thickness=f"{t} mm", slots__web="11 mm") for t in (2, 6)}
    web = {t: next(v for v in judge(job, draft(job)) if v.name == "Leather round the slots") for t, job in jobs.items()}
    assert (web[2].limit, web[6].limit) == (6.0, 15.0)


def test_each_leather_is_cut_from_a_hide_of_its_own() -> None:
    book = made(demo.job("site-book"))
    found = {each.said: each for each in leathers([book], SORTS) if each.use == "body"}
    assert set(found) == {"shoulder, 2 mm", "thin side, 1.2 mm"}
    (own,) = found["thin side, 1.2 mm"].parts
    assert {piece.name for piece in own[1]} == {"front pocket", "back pocket"}
    area = sum(p.area * p.count for p in book.draft.pieces if p.thickness == pytest.approx(1.2))
    assert found["thin side, 1.2 mm"].area == pytest.approx(area)
