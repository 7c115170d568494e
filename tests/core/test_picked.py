"""Whatever is picked and however it is measured: a draft that is whole, or a sentence that says why there is none."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from tailor import demo
from tailor.core.carried.block import block
from tailor.core.carried.stations import Shape, Station
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft import styles
from tailor.core.draft.style import MOULDED, WHAT, WORN, Asked
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.outcome import work_out
from tailor.core.picking import guessed, ranked
from tests.reports import claims
from tests.sweeps import about

# The picker


@pytest.mark.parametrize(
    ("name", "best"),
    [("stapler", "holster"), ("leggett", "mask"), ("crew-cards", "card-holder"), ("site-book", "book-cover"),
     ("delivery-notes", "document-cover"),
     ("eaves-blade", "folded-sheath"), ("whetstone", "slip-case")],
)  # fmt: skip
def test_what_is_measured_is_recognised_and_suited(name: str, best: str) -> None:
    job = demo.job(name)
    found = ranked(guessed(job.loft, job.zones), job.loft, job.zones)
    assert found[0].style == best
    assert [f.mark for f in found if not f.never] == sorted((f.mark for f in found if not f.never), reverse=True)
    assert all(f.why for f in found)
    assert len(found) == len(styles.names())


@st.composite
def objects(draw: st.DrawFn) -> Job:
    """Anything a crew might bring: a block, a blade, a head, a tool with a trigger."""
    long, wide, thick = (draw(st.floats(low, high)) for low, high in ((60, 320), (18, 240), (1, 90)))
    zones: tuple[Zone, ...] = ()
    if draw(st.booleans()):
        table = block(long, wide, thick, draw(st.floats(0, min(long, wide, thick) / 4))).stations
    else:
        shape = draw(st.sampled_from(list(Shape)))
        shares = draw(st.lists(st.floats(0.3, 1.0), min_size=3, max_size=5))
        table = tuple(
            Station(k * long / (len(shares) - 1), -wide * s / 2, wide * s / 2, thick * s / 2, thick * s / 2, shape)
            for k, s in enumerate(shares)
        )
        kind = draw(st.sampled_from([None, ZoneKind.EDGE, ZoneKind.TRIGGER, ZoneKind.CONTROL]))
        zones = () if kind is None else (Zone(kind, 0.1 * long, 0.4 * long),)
    job = Job("Drawn", styles.FIRST, table, zones)
    return job.typed("leather.thickness", f"{draw(st.floats(1.0, 3.6)):.2f}")


@given(objects(), st.sampled_from(WHAT), st.sampled_from(WORN), st.sampled_from(MOULDED), st.data())
@settings(max_examples=about(40), deadline=None)
def test_whatever_is_picked_drafts_or_says_why_not(
    job: Job, what: str, worn: str, moulded: str, data: st.DataObject
) -> None:
    admissible = [s.style for s in ranked(Asked(what, worn, moulded), job.loft, job.zones) if not s.never]
    for name in data.draw(st.lists(st.sampled_from(admissible), min_size=1, max_size=3, unique=True)):
        whole(replace(job, style=name))


def whole(job: Job) -> None:
    """A draft with no crossing lines, or one clear sentence."""
    outcome = work_out(job)
    if outcome.made is None:
        assert outcome.error is not None
        assert "at fault" not in str(outcome.error), str(outcome.error)
        return
    for one in outcome.made.pieces:
        assert Polygon(one.cut).is_valid, (job.style, one.name)
        assert np.isfinite(one.cut).all()
    for seam in outcome.made.seams:
        counts = [len(p.holes_of(seam.name, e)) for p in outcome.made.pieces for e in seam.edges]
        assert {n for n in counts if n} == {seam.count}


BROKEN: list[tuple[str, str, str]] = [
    ("laser-level", "gusset.flange=in panel.corner=90", "does not fit its sides"),
    ("kit-bag", "gusset.flange=in inside.through=3", "cannot have corners of 0.0 mm"),
    ("kit-bag", "panel.corner=70 inside.up=60", "cannot have corners of 70.0 mm"),
    ("laser-level", "inside.through=5 foam.thickness=0", "taken up by the two turns"),
    ("leggett", "mouth.y=400", "does not cover a head"),
    ("whetstone", "panel.loop=140", "does not go round it"),
]


@pytest.mark.parametrize(("name", "typed", "said"), BROKEN)
def test_measures_that_cannot_be_are_refused_in_a_sentence(name: str, typed: str, said: str) -> None:
    job = demo.job(name)
    for each in typed.split():
        job = job.typed(*each.split("=", 1))
    with pytest.raises(InputError, match=said):
        draft(job)


JUDGED: list[tuple[str, dict[str, str], str, Callable[[str], bool]]] = [
    ("whetstone", {"fit__clearance": "3"}, "Snug enough to stay in", lambda r: r == "stop"),
    ("whetstone", {"notch__radius": "0"}, "Thumb gets hold", lambda r: r != "ok"),
    ("site-book", {"pocket__depth": "150"}, "Pockets can be loaded", lambda r: r == "stop"),
    ("site-book", {"pocket__depth": "20"}, "Pockets hold the boards", lambda r: r == "stop"),
    ("delivery-notes", {"pocket__depth": "112"}, "Fold is free of pockets", lambda r: r != "ok"),
    ("delivery-notes", {"pocket__depth": "40"}, "Pockets hold the papers", lambda r: r != "ok"),
    ("laser-level", {"panel__corner": "5"}, "Corner turns with its gusset", lambda r: r != "ok"),
    ("laser-level", {"inside__across": "70"}, "Room inside", lambda r: r == "stop"),
    ("laser-level", {"handle__reach": "60"}, "A hand goes through", lambda r: r == "stop"),
    ("crew-cards", {"pocket__step": "7"}, "Card can be drawn", lambda r: r != "ok"),
    ("peg-tray", {"wall__height": "5"}, "Walls stand by themselves", lambda r: r != "ok"),
    ("leggett", {"mouth__y": "70"}, "Head covered up to its neck", lambda r: r != "ok"),
]


@pytest.mark.parametrize(("name", "typed", "verdict", "holds"), JUDGED)
def test_what_a_maker_spoils_is_told(
    name: str, typed: dict[str, str], verdict: str, holds: Callable[[str], bool]
) -> None:
    assert claims(name)[verdict] == "ok"
    assert holds(claims(name, **typed)[verdict])
