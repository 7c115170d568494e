"""What is learned, held against the same models worked out by chance and by counting: no formula is shared."""

from __future__ import annotations

from datetime import date
from itertools import pairwise

import numpy as np
import pytest
from scipy.stats import norm
from scipy.stats import t as student

from tailor.core.carried.loft import Array
from tailor.core.log import causes, words
from tailor.core.log.case import Fit, Said, When
from tailor.core.log.causes import Cause, Heard, Read, find
from tailor.core.log.change import changed
from tailor.core.log.hierarchy import TAILS, UNSURE, Hierarchy, Off
from tailor.core.log.promise import COUNTS, PACE, USUAL, promise
from tailor.core.log.spreads import Spreads
from tailor.core.log.words import wish

DAY = date(2026, 5, 4)
MANY = 400_000


def weighed(values: Array, weights: Array) -> tuple[float, float]:
    """Mean and standard deviation of weighed values, and enough of them must count."""
    share = weights / weights.sum()
    assert 1 / (share**2).sum() > 300
    mean = float(share @ values)
    return mean, float(np.sqrt(share @ (values - mean) ** 2))


@pytest.mark.parametrize(
    "readings",
    [
        [("a", 0.9), ("a", 1.2), ("a", 0.8), ("b", -0.1)],
        [("a", 1.0)],
        [("a", 0.7), ("b", 0.9), ("c", 0.6), ("a", 0.8), ("b", 4.5)],
    ],
)
def test_leathers_are_believed_as_chance_would_have_it(readings: list[tuple[str, float]]) -> None:
    """Makers drawn at random, each as likely as his readings are; those who are like this one tell of his leathers."""
    random = np.random.default_rng(1)
    spreads = Spreads.of(1.0)
    wide, loud = np.exp(UNSURE * random.standard_normal((2, MANY)))
    shared = wide * (
        spreads.maker * random.standard_normal(MANY)
        + spreads.kind * random.standard_normal(MANY)
        + spreads.method * random.standard_normal(MANY)
    )
    leathers = {name: shared + wide * spreads.leather * random.standard_normal(MANY) for name in "abcd"}
    told = np.zeros(MANY)
    for name, by in readings:
        told += student.logpdf((by - leathers[name]) / (0.5 * loud), TAILS) - np.log(loud)
    weights = np.exp(told - told.max())
    of_it = Hierarchy([Off(by, 0.5, "kind", name, "way") for name, by in readings], spreads)
    for name in sorted({name for name, _ in readings} | {"d"}):  # d was never met
        mean, sd = weighed(leathers[name], weights)
        guess = of_it.guess("kind", name, "way")
        assert guess.mean == pytest.approx(mean, abs=0.08)
        assert guess.sd == pytest.approx(sd, rel=0.17)
        inside = float(weights[(leathers[name] > guess.low) & (leathers[name] < guess.high)].sum() / weights.sum())
        assert 0.85 < inside < 0.95


def test_pieces_share_what_they_are_off_by_as_chance_would_have_it() -> None:
    random = np.random.default_rng(2)
    spreads = Spreads.of(1.0)
    wide, loud = np.exp(UNSURE * random.standard_normal((2, MANY)))
    hidden = wide * random.standard_normal(MANY)
    common = 0.6 * loud * np.sqrt(0.5) * random.standard_normal(MANY)
    told = np.zeros(MANY)
    for by in (1.0, 1.1, 0.9):
        scale = 0.6 * loud * np.sqrt(0.5)
        told += student.logpdf((by - hidden - common) / scale, TAILS) - np.log(scale)
    mean, sd = weighed(hidden, np.exp(told - told.max()))
    guess = Hierarchy([Off(by, 0.6, "k", "l", "m", "p") for by in (1.0, 1.1, 0.9)], spreads).guess("k", "l", "m")
    assert guess.mean == pytest.approx(mean, abs=0.06)
    assert guess.sd == pytest.approx(sd, rel=0.15)


def drawn_makers(random: np.random.Generator) -> dict[str, Array]:
    """Makers with a wish, a band that is right, a step beyond it, a bias, leather that gives, and contentment."""
    return {
        "wish": 0.5 + words.WIDE * random.standard_normal(MANY),
        "half": random.choice(words.HALVES, MANY, p=words.HALF / words.HALF.sum()),
        "step": random.choice(words.STEPS, MANY),
        "bias": words.BIAS * random.standard_normal(MANY),
        "give": words.GIVES + words.UNSURE * random.standard_normal(MANY),
        "content": random.choice(words.CONTENT, MANY, p=words.CONTENTED / words.CONTENTED.sum()),
    }


def heard_by(random: np.random.Generator, who: dict[str, Array], said: Said) -> Array:
    """Whether each maker would have said the same."""
    gave = {When.NEW: 0.0, When.WEEK: 0.5, When.MONTH: 1.0}[said.when] * who["give"]
    noise = np.hypot(words.NOISE, 0.1)
    there = said.drafted + who["bias"] + gave + noise * random.standard_normal(MANY)
    edges = [who["wish"] - who["half"] - who["step"], who["wish"] - who["half"], who["wish"] + who["half"],
             who["wish"] + who["half"] + who["step"]]  # fmt: skip
    word = sum((there >= edge).astype(int) for edge in edges)
    content = random.random(MANY) < who["content"]
    return np.where(content, said.fit is Fit.RIGHT, word == list(Fit).index(said.fit))


@pytest.mark.parametrize(
    "answers",
    [
        [(0.5, Fit.TIGHT, When.NEW)],
        [(0.5, Fit.TIGHT, When.NEW), (0.9, Fit.RIGHT, When.NEW)],
        [(0.5, Fit.TIGHT, When.NEW), (0.5, Fit.RIGHT, When.MONTH)],
        [(0.3, Fit.RIGHT, When.NEW), (0.6, Fit.RIGHT, When.NEW), (1.2, Fit.LOOSE, When.WEEK)],
        [(0.2, Fit.STUCK, When.NEW), (1.4, Fit.FALLS, When.NEW)],
    ],
)
def test_wishes_are_those_of_makers_who_would_have_said_the_same(answers: list[tuple[float, Fit, When]]) -> None:
    random = np.random.default_rng(4)
    who, same = drawn_makers(random), np.ones(MANY, dtype=bool)
    said = [Said("sheath", drafted, fit, when, DAY) for drafted, fit, when in answers]
    for each in said:
        same &= heard_by(random, who, each)
    alike = (who["wish"] - who["bias"])[same]
    assert len(alike) > 1000
    got = wish(said, 0.5)
    assert got.clearance.mean == pytest.approx(float(alike.mean()), abs=0.05)
    assert got.clearance.sd == pytest.approx(float(alike.std()), rel=0.1)
    assert got.give.mean == pytest.approx(float(who["give"][same].mean()), abs=0.04)
    low, high = np.quantile(alike, [0.05, 0.95])
    assert got.clearance.low == pytest.approx(float(low), abs=0.12)
    assert got.clearance.high == pytest.approx(float(high), abs=0.12)


def test_a_measured_gap_tells_wish_and_bias_apart_as_chance_would_have_it() -> None:
    random = np.random.default_rng(5)
    who = drawn_makers(random)
    one = Said("sheath", 0.5, Fit.LOOSE, When.NEW, DAY, gap=1.1, spread=0.1)
    there = one.drafted + who["bias"] + words.NOISE * random.standard_normal(MANY)
    felt = there + 0.1 * random.standard_normal(MANY)
    band = who["wish"] + who["half"]
    same = (felt >= band) & (felt < band + who["step"]) & (random.random(MANY) >= who["content"])
    weights = norm.pdf((1.1 - there) / 0.1) * same
    mean, sd = weighed(who["wish"] - who["bias"], weights)
    got = wish([one], 0.5).clearance
    assert got.mean == pytest.approx(mean, abs=0.08)
    assert got.sd == pytest.approx(sd, rel=0.2)


@pytest.mark.parametrize("row", [[0.1, -0.2, 0.0, 0.2, 1.9, 2.1, 1.8], [0.0, 0.3, -0.3, 0.1, 1.0, 0.9, 1.2]])
def test_a_change_is_as_likely_as_counting_says(row: list[float]) -> None:
    """The levels before and after, and how loud the readings are, summed over on a grid of its own."""
    levels, louds = np.linspace(-8, 8, 1601), np.exp(np.linspace(-0.7, 0.7, 5))
    about = {wide: norm.pdf(levels, 0, wide) / norm.pdf(levels, 0, wide).sum() for wide in (1.0, 1.6)}
    shares = np.exp(-(np.log(louds) ** 2) / (2 * UNSURE**2))

    def likely(part: list[float], wide: float) -> Array:
        each = [student.pdf((np.array(part)[:, None] - levels) / (0.5 * loud), TAILS) / loud for loud in louds]
        return np.array([(one.prod(axis=0) * about[wide]).sum() for one in each])

    none = float((likely(row, 1.0) * shares).sum())
    starts = range(3, len(row))
    each = [float((likely(row[:k], 1.0) * likely(row[k:], 1.6) * shares).sum()) / none for k in starts]
    times = float(np.mean(each))
    found = changed(row, [0.5] * len(row), 1.0)
    assert (found is not None) == (times >= 18)
    if found is not None:
        assert found.times == pytest.approx(times, rel=0.05)
        assert found.first == 3 + int(np.argmax(each)) == 4
    assert changed(row[:3], [0.5] * 3, 1.0) is None  # too few to say


def test_a_promise_is_what_makers_with_such_jobs_would_keep() -> None:
    random = np.random.default_rng(6)
    spread = USUAL * np.sqrt(COUNTS / random.chisquare(COUNTS, MANY))
    pace = PACE * spread * random.standard_normal(MANY)
    took = [75.0, 100.0, 80.0]
    told = sum(norm.logpdf(np.log(minutes / 60.0), pace, spread) for minutes in took)
    weights = np.exp(told - told.max())
    assert weighed(pace, weights)[0] == pytest.approx(np.log(promise([60.0] * 3, took).pace), abs=0.01)
    new = pace + spread * random.standard_normal(MANY)
    for chance in (0.2, 0.5, 0.8, 0.95):
        limit = np.log(promise([60.0] * 3, took).factor(chance))
        assert float(weights[new <= limit].sum() / weights.sum()) == pytest.approx(chance, abs=0.015)


# What went wrong

TWO = (
    Cause("one", 0.4, {"belly": -1.0, "tip": -0.2}, {"caliper": 1.0}, often=2.0),
    Cause("other", 0.3, {"belly": -0.9, "tip": -1.0}, {"rule": 2.0}),
)


def amounts(random: np.random.Generator) -> Array:
    return random.choice(causes.AMOUNTS, MANY, p=causes.USUALLY / causes.USUALLY.sum())


@pytest.mark.parametrize("fits", [{"belly": Fit.TIGHT}, {"belly": Fit.TIGHT, "tip": Fit.RIGHT}, {"tip": Fit.LOOSE}])
def test_causes_are_as_likely_as_faulty_cases_have_them(fits: dict[str, Fit]) -> None:
    random = np.random.default_rng(7)
    which = random.choice(2, MANY, p=[2 / 3, 1 / 3])
    size = amounts(random) * np.where(which == 0, TWO[0].usual, TWO[1].usual)
    alike, same = causes.OFF * random.standard_normal(MANY), np.ones(MANY, dtype=bool)
    for place, fit in fits.items():
        per = np.where(which == 0, TWO[0].room[place], TWO[1].room[place])
        there = per * size + alike + causes.AT * random.standard_normal(MANY)
        edges = [-np.inf, -causes.HALF - causes.STEP, -causes.HALF, causes.HALF, causes.HALF + causes.STEP, np.inf]
        n = list(Fit).index(fit)
        same &= (there >= edges[n]) & (there < edges[n + 1])
    found = find(TWO, [Heard(place, fit) for place, fit in fits.items()], [], {})
    shares = {suspect.name: suspect.share for suspect in found.suspects}
    assert shares["one"] == pytest.approx(float((which[same] == 0).mean()), abs=0.02)
    assert sum(shares.values()) == pytest.approx(1.0)
    sizes = {suspect.name: suspect.amount for suspect in found.suspects}
    for k, cause in enumerate(TWO):
        mine = size[same & (which == k)]
        assert sizes[cause.name] == pytest.approx(float(mine.mean()), abs=0.02)


def test_the_measure_that_is_asked_for_is_the_one_that_tells_most() -> None:
    """Measured for every faulty case that would be felt so: the doubt that is left, in the mean, by counting."""
    heard = [Heard("belly", Fit.TIGHT)]
    noises = {"caliper": 0.05, "rule": 2.5}
    assert find(TWO, heard, [], noises).measure == "caliper"  # a rule so coarse says nothing
    assert find(TWO, heard, [], {"caliper": 2.0, "rule": 0.05}).measure == "rule"
    assert find(TWO, heard, [], {"something else": 0.01}).measure == ""
    random, left = np.random.default_rng(8), dict[str, float]()
    likely = {suspect.name: suspect.share for suspect in find(TWO, heard, [], {}).suspects}
    for measure, noise in (("caliper", 0.05), ("rule", 2.5)):
        doubts = []
        for _ in range(150):
            cause = TWO[0] if random.random() < likely["one"] else TWO[1]
            size = cause.usual * -abs(random.choice(causes.AMOUNTS, p=causes.USUALLY / causes.USUALLY.sum()))
            off = cause.tells.get(measure, 0.0) * -size + noise * random.standard_normal()
            after = np.array([suspect.share for suspect in find(TWO, heard, [Read(measure, off, noise)], {}).suspects])
            doubts.append(-float((after * np.log(after + 1e-12)).sum()))
        left[measure] = float(np.mean(doubts))
    assert left["caliper"] < 0.5 * left["rule"]


def test_what_is_read_moves_a_suspect_by_how_sure_the_reading_is() -> None:
    heard = [Heard("belly", Fit.TIGHT)]
    shares = [
        next(s.share for s in find(TWO, heard, [Read("caliper", 0.5, noise)], {}).suspects if s.name == "one")
        for noise in (0.05, 0.2, 1.0)
    ]
    assert all(fine > coarse for fine, coarse in pairwise(shares))
    assert shares[0] > 0.95
