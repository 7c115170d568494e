from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tailor import demo
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.checks.verdict import Ruling
from tailor.core.job import Job, draft, judge
from tailor.core.measure import AUTO
from tailor.core.together.assembled import Assembled
from tests.things import job_of


def ruling(job: Job, name: str) -> Ruling:
    return next(v.ruling for v in judge(job, draft(job)) if v.name == name)


def test_the_demo_as_it_comes_holds_in_everything(eaves: Job) -> None:
    said = judge(eaves, draft(eaves))
    assert {v.ruling for v in said} == {Ruling.OK}
    assert len(said) >= 20


PROVOKED = [
    ("Welt clear of the edge", {"seam.standoff": "1.2"}),
    ("Stitch clear of the edge", {"seam.standoff": "0.6", "seam.stitch_inset": "1.5"}),
    ("Welt clear of the point", {"seam.standoff": "0.5"}),
    ("Welt outside the clearance", {"seam.standoff": "2", "fit.clearance": "3"}),
    ("No pinch at the welt", {"welt.layers": "1", "welt.thickness": "0.8"}),
    ("Leather comes down gently", {"seam.standoff": "2"}),
    ("The widest part comes out", {"seam.standoff": "0.2", "fit.clearance": "0"}),
    ("Edge and point covered", {"mouth.y": "140"}),
    ("Grip free for the hand", {"mouth.y": "225"}),
    ("Margin suits the stack", {"seam.margin": "2"}),
    ("First hole in from the mouth", {"seam.first_hole": "1"}),
    ("Last hole clear of the fold", {"seam.fold_hole": "1"}),
    ("Stitch lies on the welt", {"seam.stitch_inset": "1", "seam.standoff": "1", "leather.thickness": "6"}),
    ("Welt reaches the cut edge", {"welt.width": "8", "seam.stitch_inset": "6"}),
    ("Fold is not too sharp", {"leather.fold_radius": "0.2"}),
    ("Belt goes through the loop", {"loop.deep": "3"}),
    ("Loop is wide enough not to tilt", {"loop.width": "10"}),
    ("Loop lands on leather", {"loop.rise": "60"}),
]


@pytest.mark.parametrize(("name", "typed"), PROVOKED)
def test_what_is_wrong_is_said_and_can_be_put_right(eaves: Job, name: str, typed: dict[str, str]) -> None:
    job = eaves
    for key, text in typed.items():
        job = job.typed(key, text)
    verdict = next(v for v in judge(job, draft(job)) if v.name == name)
    assert verdict.ruling is not Ruling.OK
    assert verdict.reason.endswith(".")
    mended = job
    for key, text in verdict.remedies:
        if text == AUTO or key in job.settings:
            mended = mended.typed(key, text)
    before = [Ruling.OK, Ruling.LOOK, Ruling.STOP].index(verdict.ruling)
    assert [Ruling.OK, Ruling.LOOK, Ruling.STOP].index(ruling(mended, name)) < before or not verdict.remedies


def one_sided(job: Job, share: float) -> Job:
    """The job with so much of its object's thickness in front of the middle."""
    return replace(
        job,
        stations=tuple(replace(s, front=s.thickness * share, back=s.thickness * (1 - share)) for s in job.stations),
    )


@pytest.mark.parametrize("share", [0.25, 0.75, 0.95])
def test_a_one_sided_thing_is_folded_in_step(eaves: Job, share: float) -> None:
    """Put together, the holes of both halves and of the welt lie on one another, though one half is longer."""
    job = one_sided(eaves, share)
    made = draft(job)
    said = {v.name: v for v in judge(job, made)}
    verdict = said["Front and back holes meet"]
    assert verdict.value == pytest.approx(made.drift)
    assert verdict.ruling is Ruling.OK
    assert "by its own strip" in verdict.reason
    chords = made.front.holes.chords, made.back.holes.chords
    assert len(chords[0]) == len(chords[1])
    assert np.ptp(chords[0]) < 0.02
    assert np.ptp(chords[1]) > 0.2
    whole = Assembled(made.unmarked())
    assert max(met.distance for met in whole.seams if met.name == "main") < 0.6
    assert not [v for v in said.values() if v.ruling is Ruling.STOP]


def test_a_one_sided_thing_that_is_moulded_is_in_step_where_it_is_formed() -> None:
    """Laid flat as a whole, holes that meet lie at other heights on either half."""
    made = draft(one_sided(job_of(11, "folded-sheath", mould__method="fingers"), 0.76))
    assert made.shell.whole
    assert np.abs(made.front.holes.points[:, 1] - made.back.holes.points[:, 1]).max() > 5
    assert made.drift < 0.1


def test_equal_stitches_are_kept_where_they_come_in_step(eaves: Job) -> None:
    made = draft(one_sided(eaves, 0.51))
    assert 0.0 < made.drift < 0.4
    assert np.ptp(made.back.holes.chords) < 0.02


def test_an_unmarked_object_is_treated_as_sharp_and_said_so(eaves: Job) -> None:
    bare = replace(eaves, zones=())
    assert ruling(bare, "Known what is sharp") is Ruling.LOOK
    blunt = bare.typed("object.sharp", "none")  # which its remedy says
    assert not {"Known what is sharp", "Welt clear of the edge"} & {v.name for v in judge(blunt, draft(blunt))}
    assert ruling(bare, "Welt clear of the edge") is Ruling.OK
    dull = replace(eaves, zones=(Zone(ZoneKind.GRIP, 156, 240), Zone(ZoneKind.EDGE, 0, 148)))
    assert "Known what is sharp" not in {v.name for v in judge(dull, draft(dull))}


@pytest.mark.parametrize("name", ["eaves-blade", "shears", "laser-level", "site-book"])
def test_what_is_marked_and_for_which_hand_changes_no_verdict(name: str) -> None:
    job = demo.job(name)
    said = {v.name: v for v in judge(job, draft(job))}
    for key, text in (("stitch.marks", "front"), ("hand", "left")):
        other = job.typed(key, text)
        made = draft(other)
        assert {v.name: v for v in judge(other, made)} == said
        holes = [sum(len(piece.holes) for piece in pieces) for pieces in (made.pieces, made.whole)]
        assert holes[0] < holes[1] if key == "stitch.marks" else made.mirrored
