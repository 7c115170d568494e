"""What a shop is taught: by what is measured on what it made, by what was said of it, and by cases in a file."""

from __future__ import annotations

import json
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.cli import main
from tailor.core.bench.rates import Rates
from tailor.core.checks.verdict import Verdict
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.keys import KEYS
from tailor.core.leather.moulding import METHODS
from tailor.core.log.case import Case, Fit, When
from tailor.core.log.constants import CONSTANTS, constant
from tailor.core.log.entry import ROOMY, Entry, FitAt, Place, Took, cases
from tailor.core.log.learning import learned, prior
from tailor.core.log.measurable import CameOut, measurable
from tailor.core.log.using import rates_of, taken_of, with_taken, without
from tailor.core.maker import usual
from tailor.core.taken import Taken
from tailor.demo.log import log
from tailor.demo.shop import SORTS
from tailor.files import cases as files
from tailor.files import job_file

DAY = date(2026, 3, 2)

# What is measured


def measured(name: str, what: str, value: float) -> CameOut:
    job = demo.job(name)
    return CameOut(next(each for each in measurable(job, draft(job)) if each.what == what), value)


def test_room_that_is_too_much_is_a_neutral_line_nearer_the_flesh() -> None:
    """Leather cut by one neutral line and bent as by another: a draft that would have been that flat has its room."""
    job = demo.job("eaves-blade")
    gap = measured("eaves-blade", "gap", 0.68)
    assert gap.of.constant == "leather.neutral"
    assert gap.constant == pytest.approx(0.5 - 0.18 / 3.0, abs=0.01)  # the flesh lies a neutral line inside the length

    def width(neutral: float, clearance: float) -> float:
        made = draft(job.typed("leather.neutral", str(neutral)).typed("fit.clearance", f"{clearance}mm"))
        body = next(piece for piece in made.pieces if piece.name == "body")
        return float(shapely.Polygon(body.cut).intersection(shapely.box(-500, 110, 500, 111)).area)

    cut = width(0.5, 0.5)
    assert width(gap.constant, 0.68) == pytest.approx(cut, abs=0.06)  # it is that case
    assert cut - width(gap.constant, 0.5) > 0.45  # and no other


def test_other_measures_say_what_the_craft_says() -> None:
    fold = measured("eaves-blade", "fold", 8.4)
    assert (fold.of.constant, round(fold.constant, 3)) == ("leather.fold_radius", 0.4)  # 3 + 3, and twice 1.2
    wide = measured("radio", "wide", 68.3)
    assert (wide.of.constant, wide.of.method) == ("mould.stretch", "bone")
    assert wide.constant == pytest.approx(METHODS["bone"].stretch - 0.0104, abs=5e-4)  # it gave so much less
    wet, dry = measured("radio", "wet", 102.0), measured("radio", "dry", 99.0)
    assert (wet.constant, dry.constant) == (pytest.approx(0.02), pytest.approx(0.01))
    with pytest.raises(InputError, match="no slip of the hand"):
        measured("eaves-blade", "fold", 82.0)
    there = {each.what for each in measurable(demo.job("radio"), draft(demo.job("radio")))}
    assert not there & {"gap", "fold"}  # pressed leather does not lie as it is cut; two panels have no fold


def test_the_demo_teaches_what_is_true_of_its_shop_and_nothing_else() -> None:
    entries = log(DAY)
    assert len(entries) == 14
    beliefs = learned(*cases(entries))
    offered = {(b.constant, b.leather, b.method): b for b in beliefs if b.offered}
    assert set(offered) == {
        ("leather.neutral", "firm side, 3 mm", ""), ("leather.fold_radius", "firm side, 3 mm", ""),
        ("mould.stretch", "shoulder, 2 mm", "bone"), ("rate.sewn", "", ""),
    }  # fmt: skip
    neutral = offered["leather.neutral", "firm side, 3 mm", ""]
    assert (neutral.cases, round(neutral.mean, 2)) == (5, 0.44)
    assert offered["rate.sewn", "", ""].mean / Rates().sewn == pytest.approx(1.23, abs=0.06)
    assert not any(b.since for b in beliefs)


# What is taken


def test_what_is_taken_changes_new_drafts_by_what_it_says_and_no_old_job(tmp_path: Path) -> None:
    old = demo.job("eaves-blade")
    belief = next(b for b in learned(*cases(log(DAY))) if b.constant == "leather.neutral" and b.leather)
    one = taken_of(belief, SORTS)
    assert one is not None
    maker = replace(usual(), taken=with_taken((), one))
    new = old.begun_by(maker)
    by_hand = old.typed("leather.neutral", str(one.value))
    flat, same, was = (draft(job).pieces[0].cut for job in (new, by_hand, old))
    assert np.allclose(flat, same)
    assert np.ptp(flat[:, 0]) < np.ptp(was[:, 0]) - 0.3  # less leather goes round
    assert np.allclose(draft(old.by(maker)).pieces[0].cut, was)  # an old job, on the same bench
    assert new.typed("leather.thickness", "1.5mm").settings.number("leather.neutral") == 0.5  # of another leather
    path = tmp_path / "new.tailor"
    job_file.save(new, path)
    assert job_file.load(path) == new
    assert "5 of yours" in one.said
    assert without(maker.taken, one) == ()
    assert draft(old.begun_by(replace(maker, taken=()))).value("seam.margin") == draft(old).value("seam.margin")


def test_learned_stretch_less_what_drying_draws_in_is_what_a_blank_is_cut_for() -> None:
    def of(name: str, value: float) -> Case:
        return Case(name, value, 0.001, DAY, "shoulder, 2 mm", "vegetable", "bone")

    row = [of("mould.stretch", 0.03)] * 8 + [of("mould.shrink", 0.01)] * 8
    ours = [taken_of(b, SORTS) for b in learned(row) if b.leather]
    job = demo.job("radio").begun_by(replace(usual(), taken=tuple(each for each in ours if each)))
    made = draft(job)
    assert made.value("mould.stretch") == pytest.approx(sum((1, -1)[n] * o.value for n, o in enumerate(ours) if o))
    assert "draws in on drying" in made.reasons["mould.stretch"].rule


def test_the_ledger_says_when_the_fit_is_finer_than_what_is_known_of_the_leather() -> None:
    def looks(job: Job) -> list[Verdict]:
        return [v for v in judge(job, draft(job)) if v.name == "Leather known finely enough"]

    job = demo.job("eaves-blade")
    fine = job.typed("fit.clearance", "0.2mm")
    (verdict,) = looks(fine)
    assert verdict.value == pytest.approx(1.64 * 0.06 * 3.0, abs=0.01)  # nine times in ten, for so thick a leather
    assert "by the table" in verdict.reason
    assert verdict.remedies == (("fit.clearance", "0.3mm"),)
    assert looks(job) == []
    taken = Taken("leather.neutral", 0.44, 0.015, 5, 0.5, "firm side, 3 mm", 3.0, "firm")
    assert looks(fine.begun_by(replace(usual(), taken=(taken,)))) == []  # learned, it is known finely enough
    vague = fine.begun_by(replace(usual(), taken=(replace(taken, sd=0.05),)))
    assert "learned from 5 of yours" in looks(vague)[0].reason


def test_what_work_took_becomes_a_rate() -> None:
    entries = [
        Entry(f"e{n}", DAY + timedelta(days=n), demo.job("radio"), took=(Took("rate.hole", 10.0, minutes),))
        for n, minutes in enumerate([15, 16, 14, 15, 90, 15, 16])
    ]
    (belief,) = learned(*cases(entries))
    assert belief.mean == pytest.approx(1.5 * Rates().hole, rel=0.07)  # he was called away once
    rates = rates_of(belief, Rates())
    assert rates is not None
    assert rates.hole == pytest.approx(belief.mean, rel=1e-3)
    assert rates.cut == Rates().cut


# In files


def test_cases_in_a_file_become_beliefs_in_another(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    given, out = tmp_path / "cases.json", tmp_path / "beliefs.json"
    rows = [
        *({"constant": "leather.neutral", "leather": "olive", "tannage": "vegetable", "method": "", "value": 0.43 + d,
           "spread": 0.02, "made_on": f"2026-01-{n + 1:02}"} for n, d in enumerate([0, 0.01, 0.02, 0.01, 0.0])),
        {"constant": "fit.clearance", "thing": "sheath", "drafted": 0.5, "said": "tight", "when": "new",
         "made_on": "2026-01-02"},
        {"rate": "hole", "work": "awl", "amount": 200, "minutes": 20, "made_on": "2026-01-02"},
    ]  # fmt: skip
    given.write_text(json.dumps({"format": files.CASES, "cases": rows}))
    assert main(["learn", str(given), "-o", str(out)]) == 0
    told = json.loads(out.read_text())
    assert told["format"] == "tailor-beliefs/1"
    by = {(b["constant"], b["leather"], b["method"]): b for b in told["beliefs"]}
    olive = by["leather.neutral", "olive", ""]
    assert (olive["cases"], olive["prior_mean"]) == (5, 0.5)
    assert abs(olive["mean"] - 0.438) < 0.01 < olive["prior_sd"]
    assert olive["sd"] < by["leather.neutral", "", ""]["sd"]  # of one not met less is known
    assert by["fit.clearance", "sheath", ""]["mean"] > 0.5
    assert by["rate.hole", "", "awl"]["mean"] > Rates().hole
    assert "leather.neutral, olive: 0.439 ± " in capsys.readouterr().out
    given.write_text(json.dumps({"format": files.CASES, "cases": []}))
    assert main(["learn", str(given), "-o", str(out)]) == 0
    assert {b["constant"] for b in json.loads(out.read_text())["beliefs"]} == set(CONSTANTS)


@pytest.mark.parametrize(
    ("case", "said"),
    [
        ({"constant": "leather.colour", "value": 1}, "there is no constant 'leather.colour'"),
        ({"constant": "neutral", "value": 7}, "7 cannot be neutral line"),
        ({"constant": "neutral", "value": 0.5, "spread": 0}, "greater than 0"),
        ({"constant": "fit.clearance", "thing": "x", "drafted": 0.5, "said": "snug"}, "said"),
        ({"rate": "hole", "work": "awl", "amount": 0, "minutes": 3}, "amount"),
        ({"constant": "neutral"}, "value"),
    ],
)
def test_a_case_that_cannot_be_is_one_sentence(
    case: dict[str, object], said: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    path = tmp_path / "cases.json"
    path.write_text(json.dumps({"format": files.CASES, "cases": [{"made_on": "2026-01-02", **case}]}))
    assert main(["learn", str(path), "-o", str(tmp_path / "out.json")]) == 2
    error = capsys.readouterr().err
    assert said in error
    assert "case 1" in error
    assert error.count("\n") == 1
    assert not (tmp_path / "out.json").exists()


def test_a_file_that_is_not_there_is_named_once(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "none.json"
    assert main(["learn", str(path), "-o", str(tmp_path / "out.json")]) == 3
    said = capsys.readouterr().err
    assert said.startswith(f"{path}: no such file")
    assert said.count("none.json") == 1


def test_every_constant_is_as_the_tables_have_it_before_anything_is_known() -> None:
    assert constant("Neutral", "") is CONSTANTS["leather.neutral"]
    for of in CONSTANTS.values():
        for method in of.table:
            belief = prior(of, method)
            assert belief.mean == pytest.approx(min(max(of.usual(method), of.low), of.high))
            assert not belief.offered
            assert belief.low <= belief.mean <= belief.high
            assert of.at(of.off(belief.mean, method) if belief.mean > 0 or not of.times else 0, method) == belief.mean
    assert KEYS["leather.neutral"].usual == CONSTANTS["leather.neutral"].usual("")


def test_a_fit_says_something_where_there_is_room_that_is_drafted() -> None:
    for name in demo.names():
        job = demo.job(name)
        assert (job.style in ROOMY) == ("fit.clearance" in draft(job).consulted), job.style
        _, said = cases((Entry("e", DAY, job).felt(Place.BELLY, Fit.TIGHT),))
        assert bool(said) == (job.style in ROOMY)


def test_fits_at_places_are_one_answer_of_one_case() -> None:
    entry = Entry("e", DAY, demo.job("radio"), fits=(
        FitAt(Place.MOUTH, Fit.RIGHT), FitAt(Place.BELLY, Fit.TIGHT), FitAt(Place.TIP, Fit.TIGHT),
        FitAt(Place.MOUTH, Fit.RIGHT, When.MONTH),
    ))  # fmt: skip
    _, said = cases((entry,))
    assert [(each.fit, each.when, each.drafted) for each in said] == [
        (Fit.TIGHT, When.NEW, 0.6), (Fit.RIGHT, When.MONTH, 0.6)
    ]  # fmt: skip
