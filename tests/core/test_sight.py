"""What the log sees of every kind of thing: places on its pieces, what can be measured, what each fault would do."""

from __future__ import annotations

from functools import cache

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.draft.draft import Fitted
from tailor.core.errors import InputError
from tailor.core.keys import KEYS
from tailor.core.log.causes import Cause, Suspect
from tailor.core.log.constants import CONSTANTS
from tailor.core.log.effects import AMOUNT, DOES, REMEDY, SAID, causes, remedy
from tailor.core.log.entry import HEIGHTS, Place
from tailor.core.log.measurable import SAID as MEASURED
from tailor.core.log.measurable import CameOut
from tailor.core.log.sight import Sight, sight
from tests.sweeps import some

WRAPPED = ("eaves-blade", "shearing-blade", "stapler", "radio", "shears", "spar-hook", "leggett")


@cache
def seen(name: str) -> Sight:
    return sight(demo.job(name))


@cache
def of(name: str) -> tuple[Cause, ...]:
    one = seen(name)
    return causes(one.job, one.made, one.there, lambda said, share: None)


@pytest.mark.parametrize("name", demo.names())
def test_places_lie_on_leather_from_the_mouth_down(name: str) -> None:
    one = seen(name)
    whole = shapely.union_all([shapely.Polygon(piece.ring) for piece in one.seen])
    assert set(HEIGHTS) <= set(one.spots)
    assert (Place.LOOP in one.spots) == one.made.rides
    for place, spot in one.spots.items():
        assert whole.buffer(12).contains(shapely.Point(*spot)), place
    heights = [one.spots[place][1] for place in HEIGHTS]
    assert heights == sorted(heights, reverse=True)
    rings = [shapely.Polygon(piece.ring) for piece in one.seen]
    for k, ring in enumerate(rings):
        assert all(not ring.intersects(other) for other in rings[k + 1 :])  # beside each other


@pytest.mark.parametrize("name", demo.names())
def test_what_comes_out_as_it_was_drafted_says_what_it_was_drafted_with(name: str) -> None:
    one = seen(name)
    assert len({each.what for each in (*one.there, *one.besides)}) == len(one.there) + len(one.besides)
    for each in one.there:
        assert each.what in MEASURED
        constant = CONSTANTS[each.constant]
        kept = CameOut(each, each.drafted)
        assert kept.constant == pytest.approx(each.used)
        assert constant.low <= each.used <= constant.high
        assert kept.spread > 0
        more = CameOut(each, each.drafted * 1.01)
        assert np.sign(more.constant - each.used) == np.sign(each.per)
    if isinstance(one.made, Fitted) and one.made.folds:
        (gap,) = [each for each in one.there if each.what == "gap"]
        thick = one.job.settings.number("leather.thickness")
        assert gap.per == pytest.approx(-1 / thick, rel=0.25)  # found by two drafts: it is all but the thickness


@pytest.mark.parametrize("name", some(WRAPPED))
def test_what_each_fault_does_is_what_leather_does(name: str) -> None:
    by = {cause.name: np.array([cause.room[str(place)] for place in HEIGHTS]) for cause in of(name)}
    assert (by["object"] < 0.05).all()  # a larger object has less room
    assert by["object"].min() < -0.3
    assert (by["wish"] == -1).all()
    assert (by["print"] > 0).all()  # printed larger, all is larger
    assert (by["stitch"] > 0).all()
    assert not by["give"].any()
    later = next(cause for cause in of(name) if cause.name == "give")
    assert later.room[f"{Place.BELLY}, a month"] == 1.0
    made = seen(name).made
    assert ("stretch" in by) == ("shrink" in by) == made.wet
    assert ("fold" in by) == made.folds
    if made.wet:
        assert np.allclose(by["stretch"], -by["shrink"])
        assert (by["stretch"] > 0).all()
    if made.folds:
        assert (by["neutral"] < 0).all()  # bent about a line further out, the same length goes less far


@pytest.mark.parametrize("name", WRAPPED)
def test_every_suspect_can_be_said_and_put_right(name: str) -> None:
    one = seen(name)
    for cause in of(name):
        assert cause.name in SAID
        assert cause.name in AMOUNT
        what = remedy(one.job, one.made, Suspect(cause.name, 1.0, cause.usual))
        assert (cause.name in REMEDY) == bool(what.key)
        assert bool(what.does) == (cause.name in DOES)
        for much in (-9.0, 9.0):  # whatever is guessed, the next one can be drafted, and goes in
            far = remedy(one.job, one.made, Suspect(cause.name, 1.0, much * cause.usual))
            if far.key:
                assert KEYS[far.key].low <= far.value <= KEYS[far.key].high
            if far.key == "fit.clearance":
                assert far.value >= 0.1


@pytest.mark.parametrize("name", ["peg-tray", "site-book", "spar-bag", "marking-gauge", "crew-cards"])
def test_what_is_wrapped_round_nothing_is_not_guessed_at(name: str) -> None:
    with pytest.raises(InputError, match="not wrapped round what it holds"):
        of(name)
