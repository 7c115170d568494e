"""Calipers by wire, corrections after a mock-up, new zones, and whether it was measured finely enough."""

from dataclasses import replace

import numpy as np
import pytest

from tailor.core.carried import calipers
from tailor.core.carried.block import block
from tailor.core.carried.calipers import Taken
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.checks.verdict import Ruling
from tailor.core.corrections import Correction
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge, mocked
from tailor.files import job_file


def test_what_a_caliper_says_is_read_in_any_of_its_forms() -> None:
    for line, mm in (("+0028.04 mm\r\n", 28.04), ("28,04", 28.04), ("01A+00012.34", 12.34), (" 1.5000in", 38.1)):
        assert calipers.parse_line(line) == pytest.approx(mm)
    for bad in ("Err", "", "-3.00", "0.00 mm"):
        with pytest.raises(InputError, match="caliper"):
            calipers.parse_line(bad)


def test_repeats_give_mean_and_spread_and_an_outlier_is_told_not_dropped(eaves: Job) -> None:
    session, said, clock = calipers.begin(eaves.stations, times=3), "", 0.0
    for value in (5.02, 5.00):
        session, said = calipers.pressed(session, value, clock := clock + 2)
        assert said == ""
        assert session.at == 0
    session, said = calipers.pressed(session, 7.9, clock := clock + 2)
    assert "lies apart" in said
    assert session.at == 0
    session, said = calipers.pressed(session, 4.98, clock := clock + 2)
    assert session.at == 1
    first = session.taken[0]
    assert first.readings == (5.02, 5.00, 7.9, 4.98)
    assert first.outliers == (2,)
    assert (first.mean, first.spread) == (pytest.approx(5.0), pytest.approx(0.04))
    session, said = calipers.pressed(session, 4.99, clock + 0.3)
    assert "pressed twice" in said
    assert session.taken[0].readings[-1] == 4.99
    session, said = calipers.pressed(session, 1.2, clock := clock + 3)
    session, said = calipers.pressed(session, 1.9, clock := clock + 3)
    assert "differ by 0.70" in said
    assert session.at == 1
    assert not Taken().settled
    made = calipers.table(session, eaves.stations)
    assert made.stations[0].width == pytest.approx(5.0, abs=0.006)
    assert made.stations[1:] == tuple(replace(s) for s in eaves.stations[1:])


def test_a_capture_without_repeats_knows_the_caliper_is_no_truer_than_its_hand(eaves: Job) -> None:
    session = calipers.begin(eaves.stations)
    for k, place in enumerate(session.places):
        session, _ = calipers.pressed(session, place.expected, 2.0 * k)
    assert session.done
    last = session.places[-1].expected
    session, said = calipers.pressed(session, last, 2.0 * (len(session.places) - 1) + 0.2)
    assert "pressed twice" in said  # the last place too
    assert session.taken[-1].readings == (last, last)
    with pytest.raises(InputError, match="after the last place"):
        calipers.pressed(session, 5.0, 999.0)
    table = calipers.table(session, eaves.stations)
    assert table.capture == Capture(Way.CALIPER, 0.2)
    assert [s.width for s in table.stations] == pytest.approx([s.width for s in eaves.stations])


def test_an_ease_lets_the_seam_out_where_it_was_noted_and_nowhere_else(eaves: Job, sheath: Draft) -> None:
    job = eaves.corrected(Correction("ease", 3.0, "tight at the heel", y=80.0, reach=25.0))
    eased = draft(job)
    more = eased.standoff.distance - np.interp(eased.shell.rows, sheath.shell.rows, sheath.standoff.distance)
    near = np.abs(eased.shell.rows - 80) < 3
    far = np.abs(eased.shell.rows - 80) > 60
    assert more[near] == pytest.approx(3.0, abs=0.7)  # the line must flow on, so a little may come of that
    assert np.abs(more[far]).max() < 0.3
    assert eased.standoff.eased.max() == pytest.approx(3.0, abs=0.1)
    k = int(np.abs(eased.shell.rows - 80).argmin())
    assert eased.standoff.reason_at(k).inputs["eased after the mock-up"] == pytest.approx(3.0, abs=0.2)


def test_straight_sides_are_eased_too() -> None:
    plain = Job("Bar", "two-panel", block(150, 40, 12).stations)
    eased = draft(plain.corrected(Correction("ease", 2.0, "tight half way", y=70.0, reach=25.0)))
    rows, was = eased.shell.rows, draft(plain)
    for now, before in zip(eased.standoffs, was.standoffs, strict=True):
        more = now.distance - np.interp(rows, was.shell.rows, before.distance)
        assert more[np.abs(rows - 70) < 3] == pytest.approx(2.0, abs=0.4)
        assert np.abs(more[np.abs(rows - 70) > 50]).max() < 0.2


def test_corrections_are_kept_when_measures_change_and_give_way_to_a_pin(eaves: Job, sheath: Draft) -> None:
    lower = eaves.corrected(Correction("mouth.y", -8.0, "the hand does not reach"))
    assert draft(lower).value("mouth.y") == pytest.approx(sheath.value("mouth.y") - 8)
    longer = tuple(replace(s, y=s.y + 10 * (s.y > 150)) for s in eaves.stations)
    moved = [Zone(z.kind, z.low + 10 * (z.low > 140), z.high + 10 * (z.high > 140)) for z in eaves.zones]
    plain = replace(eaves, stations=longer, zones=tuple(moved))
    same = replace(plain, settings=lower.settings)
    assert draft(same).value("mouth.y") == pytest.approx(draft(plain).value("mouth.y") - 8)
    reason = draft(lower).reasons["mouth.y"]
    assert reason.rule == "corrected after the mock-up: the hand does not reach"
    assert sheath.value("mouth.y") in reason.others.values()
    pinned = lower.typed("mouth.y", "170mm")
    assert draft(pinned).value("mouth.y") == 170
    roomy = eaves.corrected(Correction("fit.clearance", 0.4, "film inside"))
    assert roomy.settings.number("fit.clearance") == pytest.approx(0.9)
    assert lower.uncorrected(0) == eaves
    back = job_file.from_text(job_file.to_text(lower))
    assert back == lower
    for on, by, why in (("ease", 0.0, "x"), ("ease", 90.0, "x"), ("ease", 2.0, " "), ("ease", float("nan"), "x")):
        with pytest.raises(InputError, match="correction"):
            Correction(on, by, why)
    with pytest.raises(InputError, match="no such setting"):
        eaves.corrected(Correction("flap.length", 2.0, "x"))
    with pytest.raises(InputError, match="not a length"):
        eaves.corrected(Correction("welt.layers", 2.0, "x"))


def test_an_older_job_file_opens_and_is_taken_as_calipered(eaves: Job) -> None:
    old = job_file.to_text(eaves).replace('"version": 2', '"version": 1')
    head, _, tail = old.partition(' "capture"')
    without = head + tail[tail.index(' "settings"') :]
    assert job_file.from_text(without) == eaves


@pytest.mark.parametrize("material", ["card", "foam"])
def test_a_mock_up_has_the_lines_of_the_case_in_another_thickness(eaves: Job, sheath: Draft, material: str) -> None:
    tried = draft(mocked(eaves, sheath, material))
    assert tried.value("mouth.y") == sheath.value("mouth.y")
    assert tried.value("seam.margin") == sheath.value("seam.margin")
    assert tried.value("seam.stitch_inset") == sheath.value("seam.stitch_inset")
    there = np.interp(sheath.shell.rows, tried.shell.rows, tried.standoff.x_welt)
    assert np.abs(there - sheath.standoff.x_welt).max() < 0.7
    body = tried.piece("body").area / sheath.piece("body").area
    assert (body < 0.97) if material == "card" else body == pytest.approx(1.0, abs=0.01)
    with pytest.raises(InputError, match="not for mock-ups"):
        mocked(eaves, sheath, "tin")


def test_triggers_are_covered_and_controls_left_free(eaves: Job) -> None:
    def said(job: Job, name: str) -> Ruling:
        return next(v.ruling for v in judge(job, draft(job)) if v.name == name)

    trigger = replace(eaves, zones=(*eaves.zones, Zone(ZoneKind.TRIGGER, 170.0, 182.0)))
    made = draft(trigger)
    assert made.value("mouth.y") >= 182 + 10
    assert "trigger" in made.reasons["mouth.y"].rule
    assert said(trigger, "Trigger covered") in (Ruling.OK, Ruling.STOP)
    low = trigger.typed("mouth.y", "180mm")
    verdict = next(v for v in judge(low, draft(low)) if v.name == "Trigger covered")
    assert verdict.ruling is Ruling.STOP
    assert "never a live one" in verdict.reason
    assert "local law" in verdict.reason
    control = replace(eaves, zones=(*eaves.zones, Zone(ZoneKind.CONTROL, 172.0, 180.0)))
    assert draft(control).value("mouth.y") == pytest.approx(167.0)
    assert said(control, "Control left free") is Ruling.OK
    assert said(control.typed("mouth.y", "176mm"), "Control left free") is Ruling.STOP
    hollow = replace(eaves, zones=(*eaves.zones, Zone(ZoneKind.HOLLOW, 150.0, 160.0)))
    assert draft(hollow).value("mouth.y") == draft(eaves).value("mouth.y")


def test_a_fit_finer_than_the_measurement_is_told(eaves: Job, sheath: Draft) -> None:
    def verdict(job: Job):
        return next(v for v in judge(job, draft(job)) if v.name == "Measured finely enough")

    assert verdict(eaves).ruling is Ruling.OK
    coarse = replace(eaves, capture=Capture(Way.WRAP, 1.25))
    told = verdict(coarse)
    assert told.ruling is Ruling.LOOK
    assert "1.25" in told.reason
    key, value = told.remedies[0]
    assert verdict(coarse.typed(key, value)).ruling is Ruling.OK
