"""What is offered for a thing, and what is put right: drafted again and judged anew."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from tailor.cli import main
from tailor.core.carried.block import KINDS, told
from tailor.core.carried.stations import Shape, Station, to_csv
from tailor.core.checks.verdict import Ruling
from tailor.core.draft.style import LIKE, WHAT, Asked
from tailor.core.job import Job, draft, judge
from tailor.core.keys import KEYS
from tailor.core.measure import Kind
from tailor.core.picking import Offer, guessed, picks, proposed, ranked
from tailor.core.righting import graveness, put_right
from tailor.core.settings import Settings
from tests.sweeps import some
from tests.things import job_of, thing


@pytest.mark.parametrize("number", some([0, 6, 12, 23, 44]))
def test_what_is_offered_is_a_whole_case_that_holds(number: int) -> None:
    job = job_of(number)
    offered, refused = picks(job)
    assert len(offered) >= 2
    assert len(offered) + len(refused) == len({o.style for o in offered} | {r.style for r in refused})
    for offer in offered:
        again = draft(offer.job)
        stops, looks = graveness(judge(offer.job, again))
        assert (stops, looks) == (0, offer.looks)
        assert offer.leather == pytest.approx(sum(p.area * p.count for p in again.pieces if p.leather != "card") / 100)
        assert offer.holds
        assert not any(key.startswith("object.") for key in offer.settings)  # no fact is made up
    assert [round(o.mark, 1) for o in offered] == sorted((round(o.mark, 1) for o in offered), reverse=True)
    for no in refused:
        assert no.why.endswith(f"{offered[0].said} serves.")


def test_picks_by_the_command_line(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    table, out = tmp_path / "thing.csv", tmp_path / "thing.tailor"
    table.write_text(to_csv(thing(10)))
    assert main(["pick", str(table), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    assert found["format"] == "tailor-picks/1"
    assert {o["stops"] for o in found["offered"]} == {0}
    assert main(["new", str(out), "--stations", str(table), "--pick", "2"]) == 0
    made = json.loads(out.read_text())
    second = found["offered"][1]
    assert made["style"] == second["style"]
    assert second["settings"].items() <= made["settings"].items()
    assert main(["check", str(out)]) == 0
    assert main(["new", str(out), "--stations", str(table), "--pick", "99"]) == 2
    assert "there is no pick 99" in capsys.readouterr().err


@pytest.mark.parametrize("number", some([1, 5, 8, 14]))
def test_remedies_end_what_is_wrong_or_a_sentence_says_why_not(number: int) -> None:
    r = np.random.default_rng(number)
    job = job_of(number, ("two-panel", "flat-back")[number % 2])
    keys = ["seam.standoff", "seam.margin", "fit.approach", "mouth.relief", "seam.pitch", "loop.play"]
    for key in r.choice(keys, 3, replace=False):
        low, high = KEYS[key].low, min(KEYS[key].high, 12.0 if KEYS[key].kind is not Kind.ANGLE else 60.0)
        job = job.typed(str(key), f"{r.uniform(low, high):.2f}")
    before = graveness(judge(job, draft(job)))
    righted = put_right(job, most=20)
    assert graveness(righted.said) <= before
    assert all(v.ruling is not Ruling.STOP for v in righted.left)
    assert all(v.reason.count(".") >= 1 for v in righted.left)
    assert graveness(judge(righted.job, draft(righted.job))) == graveness(righted.said)


def test_a_plain_object_is_told_again_in_one_line() -> None:
    for kind, sizes in (
        ("block", (105.0, 38.0, 16.0, 3.0)),
        ("cylinder", (120.0, 24.0)),
        ("book", (180.0, 120.0, 20.0)),
    ):
        known = told(KINDS[kind](*sizes).stations)
        assert known is not None
        assert (known.kind, known.sizes) == (kind, sizes)
    assert told(thing(3).stations) is None


def test_what_has_to_be_put_right_is_offered_after_what_is_ready() -> None:
    """Nothing waits for it but its place in the order; what is offered is the same."""
    job = job_of(6)
    told, begun = list[str](), list[str]()
    for found in proposed(job, tell=lambda said, share: begun.append(said)):
        told.append(found.said)
        if len(told) == 1:
            assert isinstance(found, Offer)
            assert len(begun) > 1  # the likeliest was begun before
    assert set(told) == set(begun)
    offered, refused = picks(job)
    assert {each.said for each in (*offered, *refused)} == set(told)
    assert sum(each.said == begun[0] for each in offered) == 1


def drawn(*rows: tuple[float, float, float, float, float], style: str = "two-panel") -> Job:
    """One thing with oval sections, nothing of it sharp: y, x of its sides, front, back."""
    return Job(
        "thing", style, tuple(Station(*row, Shape.OVAL) for row in rows), settings=Settings({"object.sharp": "none"})
    )


FLASK = drawn((0, 2, 93, 9, 9), (3, 0, 95, 11, 11), (95, 0, 95, 11, 11), (103, 12, 83, 9, 9), (108, 35, 60, 9, 9),
              (125, 37, 58, 9, 9))  # fmt: skip
FLUTE = drawn((0, 0, 19, 9.5, 9.5), (330, 0, 19, 9.5, 9.5))
DOMED = (0, 5, 55, 5, 2), (20, 1, 60, 14, 3), (60, 0, 62, 20, 3), (100, 3, 59, 14, 3), (112, 10, 50, 6, 2)


def test_one_thing_is_taken_neither_for_many_nor_a_round_one_for_a_book() -> None:
    """What is offered are cases that a maker would think of; the rest are told only what speaks against them."""
    assert guessed(FLUTE.loft, ()).what == "tool"
    assert guessed(FLASK.loft, ()).what == "slab"
    offered, refused = picks(FLASK)
    assert {"slip-case", "two-panel", "gusseted-box"} <= {each.style for each in offered}
    why = {each.style: each.why for each in refused}
    assert why["book-cover"] == f"Not for a slab. {offered[0].said} serves."
    assert why["tray"].startswith("Not for a slab; not worn in a pocket. ")


def test_beside_what_is_made_for_it_comes_what_is_made_for_its_like() -> None:
    loft, asked = job_of(3).loft, Asked("head on a handle", "in the hand", "none")
    mark = {each.style: each.mark for each in ranked(asked, loft, ())}
    assert mark["mask"] == 0 or mark["mask"] > mark["gusseted-box"]
    assert mark["gusseted-box"] > mark["boxed-bag"]  # a tool's, and a bag's
    why = {each.style: each.why for each in ranked(asked, loft, ())}
    assert why["gusseted-box"].startswith("made for a tool, which is much like a head on a handle")
    for kind, like in LIKE.items():
        assert {kind, *like} <= set(WHAT)
        assert kind not in like
    assert set(LIKE) == set(WHAT)


def test_a_slip_case_goes_over_a_thing_whose_back_is_plane() -> None:
    """Its middle lies further forward where it is thick, and further back at its ends; the case is straight."""
    job = drawn(*DOMED, style="slip-case")
    said = {v.name: v for v in judge(job, draft(job))}
    assert said["What it holds goes in"].ruling is Ruling.OK
    even = draft(drawn(*((y, a, b, (f + k) / 2, (f + k) / 2) for y, a, b, f, k in DOMED), style="slip-case"))
    assert draft(job).piece("front").area > even.piece("front").area
