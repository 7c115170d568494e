"""Learning, held against makers that are simulated: what is hidden in them is known, and is what is scored."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta

import numpy as np
import pytest

from tailor.core.carried.loft import Array
from tailor.core.log.case import Case, Fit, Said, When
from tailor.core.log.change import changed
from tailor.core.log.hierarchy import Hierarchy, Off
from tailor.core.log.learning import learned
from tailor.core.log.promise import promise
from tailor.core.log.spreads import Spreads
from tailor.core.log.words import wish
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
