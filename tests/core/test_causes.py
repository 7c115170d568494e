"""What went wrong, held against cases that were made faulty: by hand in proportion, and by drafts of what was made."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from datetime import date
from functools import cache

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.log.case import Fit, When
from tailor.core.log.causes import Cause, Found, Heard, Read, find
from tailor.core.log.effects import causes, remedy, said, taken, wrong
from tailor.core.log.entry import HEIGHTS, Entry, Place
from tailor.core.log.measurable import CameOut, Measurable
from tailor.core.log.sight import Sight, sight

PLACES = ("mouth", "throat", "belly", "tip", "mouth later", "belly later", "loop", "length")
WIDE = (1.0, 0.85, 1.15, 0.55)
NOISE = {"fold": 0.3, "wet": 0.5, "dry": 0.4, "object": 0.1, "thickness": 0.06, "welt": 0.1, "margin": 0.3,
         "print": 0.1, "loop": 0.6, "wide": 0.4, "gap": 0.12, "gap later": 0.15}  # fmt: skip


def cause(name: str, usual: float, room: object, loop: float = 0, length: float = 0, later: float = 0,
          **tells: float) -> Cause:  # fmt: skip
    at = np.broadcast_to(np.asarray(room, dtype=float), (4,)).tolist()
    return Cause(name, usual, dict(zip(PLACES, [*at, at[0] + later, at[2] + later, loop, length], strict=True)),
                 {key.replace("_", " "): value for key, value in tells.items()})  # fmt: skip


def scaled(by: float) -> list[float]:
    return [by * wide for wide in WIDE]


TWELVE = (
    cause("neutral", 0.06, -3, loop=-9, gap=-3, loop_=0),
    cause("fold", 0.15, [-1.2, -1.2, -1.2, -0.7], fold=6, gap=-1.2),
    cause("stretch", 0.008, scaled(80), length=150, wet=100, wide=60, gap=40),
    cause("shrink", 0.008, scaled(-80), length=-150, dry=-100, wide=-60, gap=-40),
    cause("object", 0.5, [-0.4, -1, -1.3, -0.6], length=-1, object=1, gap=-0.9),
    cause("wish", 0.5, 1.0),
    cause("thickness", 0.25, -0.9, loop=-2.5, thickness=1, gap=-0.9, fold=3),
    cause("welt", 0.4, [0.6, 0.6, 0.5, 0.2], welt=1, gap=0.5),
    cause("stitch", 0.7, [-0.45, -0.45, -0.45, -0.9], margin=1, gap=-0.45),
    cause("print", 0.01, scaled(60), loop=90, length=150, print=100, gap=30, wide=60),
    cause("loop", 1.5, 0, loop=1),
    cause("give", 0.5, 0, later=1.0, gap_later=1),
)  # fmt: skip


def faulty(seed: int, many: int) -> Iterator[tuple[Cause, float, list[Heard], np.random.Generator]]:
    """Cases with one fault each, felt at 4 to 8 places."""
    random = np.random.default_rng(seed)
    for _ in range(many):
        which = TWELVE[random.integers(len(TWELVE))]
        amount = which.usual * random.choice([-1, 1]) * abs(random.normal(1.6, 0.6))
        alike, heard = 0.12 * random.standard_normal(), []
        for place in random.permutation(PLACES)[: random.integers(4, 9)]:
            there = which.room[place] * amount + alike + 0.18 * random.standard_normal()
            heard.append(Heard(place, list(Fit)[int(np.searchsorted([-1.0, -0.3, 0.3, 1.0], there))]))
        yield which, amount, heard, random


def test_the_cause_is_among_the_first_and_surely_so_once_two_measures_are_taken() -> None:
    first = three = measured = sure = right = alike = 0
    for which, amount, heard, random in faulty(1, 200):
        found, left, read = find(TWELVE, heard, [], NOISE), dict(NOISE), list[Read]()
        first += found.suspects[0].name == which.name
        three += which.name in [suspect.name for suspect in found.suspects[:3]]
        alike += found.doubt is not None
        for _ in range(2):
            if found.measure:
                noise = left.pop(found.measure)
                off = which.tells.get(found.measure, 0.0) * amount + noise * random.standard_normal()
                read.append(Read(found.measure, off, noise))
                found = find(TWELVE, heard, read, left)
        measured += found.suspects[0].name == which.name
        if found.suspects[0].share >= 0.8:
            sure += 1
            right += found.suspects[0].name == which.name
    assert first >= 0.48 * 200
    assert three >= 0.80 * 200
    assert measured >= 0.70 * 200
    assert right >= 0.85 * sure > 60
    assert alike > 40  # fits alone do not tell everything apart, and it says so


def test_two_that_look_alike_are_told_apart_by_what_tells_them() -> None:
    heard = [Heard(place, Fit.TIGHT) for place in PLACES[:4]] + [Heard("length", Fit.RIGHT)]
    two = (TWELVE[5], cause("object", 0.5, -1.0, object=1))
    found = find(two, heard, [], {"print": 0.1, "object": 0.1})
    assert set(found.doubt or ()) == {"wish", "object"}
    assert found.measure == "object"
    for off, who in ((0.6, "object"), (0.0, "wish")):
        after = find(two, heard, [Read("object", off, 0.1)], {"print": 0.1})
        assert (after.suspects[0].name, after.doubt, after.measure) == (who, None, "")
    amounts = {suspect.name: suspect.amount for suspect in found.suspects}
    assert amounts["object"] > 0.3  # tight: it is larger
    assert amounts["wish"] < -0.3


# On real drafts


@cache
def seen(name: str) -> Sight:
    return sight(demo.job(name))


@cache
def of(name: str) -> tuple[Cause, ...]:
    one = seen(name)
    return causes(one.job, one.made, one.there, lambda what, share: None)


def made_otherwise(job: Job, **otherwise: float) -> dict[Place, float]:
    """Room that is found at each place where a case was cut by one job, and everything was as in another: the room that
    the other would have had to be drafted with to be as wide.
    """
    keys = {"neutral": "leather.neutral", "thickness": "leather.thickness", "radius": "leather.fold_radius"}
    real = job
    for name, by in otherwise.items():
        real = replace(real, settings=real.settings.pin(keys[name], real.settings.number(keys[name]) + by))
    rooms = np.array([0.1, 0.5, 1.0, 1.6])

    def width(one: Job, share: float) -> float:
        made = draft(one)
        y = made.low + share * (made.top - made.low)
        body = shapely.Polygon(made.piece("body").cut)
        return float(body.intersection(shapely.box(-500, y - 4, 500, y + 4)).area / 8)

    found = {}
    for place, share in ((Place.THROAT, 0.8), (Place.BELLY, 0.5)):
        widths = [width(replace(real, settings=real.settings.pin("fit.clearance", room)), share) for room in rooms]
        found[place] = float(np.interp(width(job, share), widths, rooms)) - 0.5
    return found


@pytest.mark.parametrize(("name", "by"), [("neutral", -0.08), ("thickness", 0.4)])
def test_what_a_cause_does_is_what_a_case_that_was_made_so_shows(name: str, by: float) -> None:
    shown = made_otherwise(demo.job("eaves-blade"), **{name: by})
    which = next(each for each in of("eaves-blade") if each.name == name)
    assert shown[Place.BELLY] * by < 0  # less of it is more room
    for place, room in shown.items():
        assert which.room[place] * by == pytest.approx(room, abs=0.08)


def test_what_is_measured_settles_it_and_what_puts_it_right_does() -> None:
    one = seen("eaves-blade")
    fits = {Place.MOUTH: Fit.RIGHT, Place.THROAT: Fit.LOOSE, Place.BELLY: Fit.LOOSE, Place.TIP: Fit.LOOSE}
    entry = Entry("e", date(2026, 5, 4), one.job)
    for place, fit in fits.items():
        entry = entry.felt(place, fit)
    entry = entry.felt(Place.BELLY, Fit.LOOSE, When.MONTH)

    def asked(entry: Entry) -> Found:
        return wrong(entry, of("eaves-blade"), (*one.there, *one.besides))

    def with_(what: str, off: float) -> None:
        nonlocal entry
        there: Measurable = next(each for each in (*one.there, *one.besides) if each.what == what)
        entry = entry.came_out(CameOut(there, there.drafted + off))

    found = asked(entry)
    assert found.doubt is not None
    assert found.measure
    for what in ("print", "object", "margin", "welt"):
        with_(what, 0.0)
    with_("thickness", -0.5)
    found = asked(entry)
    assert (found.suspects[0].name, found.suspects[0].share > 0.8) == ("thickness", True)
    assert "not as thick as was drafted, about -0.5 mm" in said(found.suspects[0])
    what = remedy(one.job, one.made, found.suspects[0])
    assert (what.key, round(what.value, 1)) == ("leather.thickness", 2.5)
    better, belly = draft(taken(one.job, what)), shapely.box(-500, 80, 500, 100)
    now, was = (shapely.Polygon(made.piece("body").cut).intersection(belly).area / 20 for made in (better, one.made))
    assert now < was - 0.3


def test_what_is_not_wrapped_round_anything_is_said_to_be_so() -> None:
    one = seen("peg-tray")
    with pytest.raises(InputError, match="not wrapped round"):
        causes(one.job, one.made, one.there, lambda what, share: None)


def test_a_moulded_case_may_have_given_or_drawn_in_and_wet_and_dry_lengths_tell() -> None:
    one = seen("radio")
    names = {each.name for each in of("radio")}
    assert {"stretch", "shrink", "print", "object"} <= names
    assert not names & {"neutral", "fold"}
    entry = Entry("e", date(2026, 5, 4), one.job)
    for place in HEIGHTS:
        entry = entry.felt(place, Fit.TIGHT)
    there = {each.what: each for each in one.there}
    for what, value in (("wide", there["wide"].drafted * 0.985), ("wet", 100.0), ("dry", 98.2), ("print", 100.0)):
        entry = entry.came_out(CameOut(there[what], value))
    found = wrong(entry, of("radio"), (*one.there, *one.besides))
    assert found.suspects[0].name == "shrink"
