"""Learning, held against makers that are simulated: what is hidden in them is known, and is what is scored."""

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
from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Verdict
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.keys import KEYS
from tailor.core.leather.moulding import METHODS
from tailor.core.log.case import Case, Fit, Said, When
from tailor.core.log.change import changed
from tailor.core.log.constants import CONSTANTS, constant
from tailor.core.log.entry import ROOMY, Entry, FitAt, Place, Took, cases
from tailor.core.log.hierarchy import Hierarchy, Off
from tailor.core.log.learning import learned, prior
from tailor.core.log.measurable import CameOut, measurable
from tailor.core.log.promise import promise
from tailor.core.log.spreads import Spreads
from tailor.core.log.using import rates_of, taken_of, with_taken, without
from tailor.core.log.words import wish
from tailor.core.maker import usual
from tailor.core.taken import Taken
from tailor.demo.log import log
from tailor.demo.shop import SORTS
from tailor.files import cases as files
from tailor.files import job_file
from tests.sweeps import about, some

DAY = date(2026, 3, 2)
PARTS = np.sqrt([0.5, 0.15, 0.25, 0.1])  # maker, kind of leather, leather, method


def simulated(random: np.random.Generator, many: int, leathers: int, r: float) -> tuple[list[Off], Array]:
    """Cases of one maker, and what is hidden of each of his leathers and of one more that he never met.

    Spreads are unlike those that are thought, by a third. Half of it is normal noise, half with heavy tails.
    """
    wide = PARTS * np.exp(0.3 * random.standard_normal(4))
    noise = np.exp(0.3 * random.standard_normal()) / r
    kinds, own = wide[1] * random.standard_normal(2), wide[2] * random.standard_normal(leathers + 1)
    alike = (wide[[0, 3]] * random.standard_normal(2)).sum()
    hidden = alike + kinds[np.arange(leathers + 1) % 2] + own
    heavy = random.random() < 0.5
    errors = random.standard_t(4, many) if heavy else random.standard_normal(many)
    of = np.arange(many) % leathers
    offs = [
        Off(hidden[k] + noise * error, 1 / r, f"kind {k % 2}", f"leather {k}", "way")
        for k, error in zip(of, errors, strict=True)
    ]
    return offs, hidden


@pytest.mark.parametrize(
    ("many", "leathers", "r", "met", "most"),
    some([(6, 1, 2, True, 0.30), (15, 1, 2, True, 0.20), (6, 6, 2, True, 0.55), (15, 6, 2, True, 0.40),
          (6, 6, 1, True, 0.72), (15, 6, 1, True, 0.58), (12, 6, 2, False, 0.70)]),
)  # fmt: skip
def test_what_is_learned_is_nearer_than_the_table(many: int, leathers: int, r: float, met: bool, most: float) -> None:
    random, errors, table, within = np.random.default_rng(many + 7 * leathers), [], [], []
    for _ in range(90):
        offs, hidden = simulated(random, many, leathers, r)
        of_it = Hierarchy(offs, Spreads.of(1.0))
        for k in range(leathers) if met else [leathers]:
            guess = of_it.guess(f"kind {k % 2}", f"leather {k}", "way")
            errors.append(guess.mean - hidden[k])
            table.append(hidden[k])
            within.append(guess.low <= hidden[k] <= guess.high)
    assert np.sqrt(np.mean(np.square(errors))) <= most * np.sqrt(np.mean(np.square(table)))
    assert 0.82 <= np.mean(within) <= 0.98  # of nine in ten


def test_one_bad_reading_moves_little_where_a_mean_would_follow_it() -> None:
    random, kept, followed = np.random.default_rng(3), 0, 0
    for _ in range(60):
        hidden = random.standard_normal()
        good = [Off(hidden + 0.5 * e, 0.5, "k", "l", "m") for e in random.standard_normal(9)]
        bad = Off(hidden + 0.5 * random.choice([-1, 1]) * random.uniform(6, 12), 0.5, "k", "l", "m")
        before, after = (Hierarchy(of, Spreads.of(1.0)).guess("k", "l", "m") for of in (good, [*good, bad]))
        kept += abs(after.mean - before.mean) < before.sd / 2
        plain = np.array([off.by for off in good]) / 0.25  # the normal model, by hand
        normal, ways = plain.sum() / (1 + 9 / 0.25), (1 + 9 / 0.25) ** -0.5
        followed += abs((plain.sum() + bad.by / 0.25) / (1 + 10 / 0.25) - normal) < ways / 2
    assert kept >= 57
    assert followed < 40


def test_readings_of_one_piece_are_not_as_many_pieces() -> None:
    one = [Off(1.0, 0.5, "k", "l", "m", "piece") for _ in range(6)]
    six = [Off(1.0, 0.5, "k", "l", "m", f"piece {n}") for n in range(6)]
    alone, apart = (Hierarchy(of, Spreads.of(1.0)).guess("k", "l", "m") for of in (one, six))
    assert alone.sd > 1.3 * apart.sd
    assert alone.mean < apart.mean


def test_a_change_is_found_soon_and_seldom_for_nothing() -> None:
    random = np.random.default_rng(5)

    def found(jump: float, times: int) -> float:
        told = 0
        for _ in range(times):
            noise = 0.5 * np.exp(0.15 * random.standard_normal())
            row = random.standard_normal() + noise * random.standard_normal(15)
            row[10:] += noise * jump * random.choice([-1, 1])
            told += any(changed(row[:k], [0.5] * k, 1.0) is not None for k in range(8, 16))
        return told / times

    assert found(0.0, about(150)) <= 0.02
    assert found(3.0, about(60)) >= 0.70
    assert found(4.5, about(60)) >= 0.95


def test_a_leather_that_was_not_met_is_believed_by_its_kin() -> None:
    def of(leather: str, tannage: str, value: float) -> list[Case]:
        return [Case("leather.neutral", value, 0.02, DAY + timedelta(days=n), leather, tannage) for n in range(6)]

    rows = [
        *of("a", "vegetable", 0.42),
        *of("b", "vegetable", 0.43),
        *of("c", "mineral", 0.53),
        *of("d", "mineral", 0.54),
    ]
    by = {(b.leather, b.tannage): b for b in learned(rows)}
    any_, like, unlike = by["", ""], by["", "vegetable"], by["", "mineral"]
    assert like.mean < any_.mean < unlike.mean
    assert max(like.sd, unlike.sd) < any_.sd  # less is known of one whose kind is not
    assert by["a", "vegetable"].sd < like.sd
    assert (like.cases, any_.cases) == (12, 24)
    assert {b.tannage for b in learned(of("a", "vegetable", 0.42))} == {"vegetable"}


def test_where_a_change_began_is_told_with_the_belief() -> None:
    values = [0.5, 0.51, 0.49, 0.5, 0.5, 0.51, 0.38, 0.37, 0.38, 0.37]
    row = [Case("leather.neutral", v, 0.02, DAY + timedelta(days=n), "side") for n, v in enumerate(values)]
    belief = next(b for b in learned(row) if b.leather == "side")
    assert belief.since == DAY + timedelta(days=6)
    assert belief.changed > 0.9
    assert next(b for b in learned(row[:6]) if b.leather == "side").since is None


def felt(random: np.random.Generator, wished: float, drafted: float, when: When, gave: float) -> Fit:
    """What somebody says of a case, who has a wish, and a band about it that is right."""
    there = drafted + gave * {When.NEW: 0.0, When.WEEK: 0.5, When.MONTH: 1.0}[when] + 0.2 * random.standard_normal()
    edges = wished + np.array([-0.95, -0.25, 0.25, 0.95])
    return list(Fit)[int(np.searchsorted(edges, there))]


@pytest.mark.parametrize(("many", "least"), [(6, 0.65), (15, 0.85)])
def test_words_tell_what_is_wished_for(many: int, least: float) -> None:
    random, near = np.random.default_rng(many), 0
    for _ in range(60):
        wished, gave, said = 0.5 + 0.5 * random.standard_normal(), 0.3 + 0.15 * random.standard_normal(), list[Said]()
        for n in range(many):
            drafted = round(0.5 + 0.6 * random.standard_normal(), 2)
            when = (When.NEW, When.NEW, When.MONTH)[n % 3]
            said.append(Said("sheath", drafted, felt(random, wished, drafted, when, gave), when, DAY))
        near += abs(wish(said, 0.5).clearance.mean - wished) < 0.25
    assert near / 60 >= least


def test_who_always_says_right_has_told_nothing() -> None:
    said = [Said("sheath", 0.3 + 0.1 * (n % 5), Fit.RIGHT, When.NEW, DAY + timedelta(days=n)) for n in range(15)]
    (belief,) = learned((), said)
    assert belief.sd >= 0.4
    assert not belief.offered


def test_a_gap_that_is_measured_says_what_the_draft_is_off_by() -> None:
    plain = [Said("sheath", 0.5, Fit.LOOSE, When.NEW, DAY)] * 4
    gaps = [replace(each, gap=1.1, spread=0.1) for each in plain]  # loose, since there is more than was drafted
    assert wish(gaps, 0.5).clearance.mean < wish(plain, 0.5).clearance.mean


def test_a_promise_is_kept_as_often_as_it_says() -> None:
    random, kept = np.random.default_rng(11), []
    for _ in range(500):
        pace, wide = 0.25 * random.standard_normal(), 0.2 * np.exp(0.25 * random.standard_normal())
        off = np.exp(pace + wide * random.standard_normal(4))
        kept.append(off[3] <= promise([60.0] * 3, (60 * off[:3]).tolist()).factor(0.8))
    assert 0.74 <= np.mean(kept) <= 0.87
    assert promise([], []).factor(0.5) == pytest.approx(1.0)
    assert promise([10, 10], [20, 20]).pace > 1.7


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
