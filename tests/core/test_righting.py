"""One remedy that is asked for, and all that help."""

from __future__ import annotations

from dataclasses import replace

import pytest

from tailor import demo
from tailor.core.carried.capture import Capture, Way
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.measure import STYLE
from tailor.core.righting import DRAFTED, graveness, put_right
from tests.things import job_of

COARSE = "Measured finely enough"


@pytest.fixture
def coarse() -> Job:
    return replace(demo.job(), capture=Capture(Way.WRAP, 1.25))


def wrong(job: Job) -> set[str]:
    return {v.name for v in judge(job, draft(job)) if v.ruling != "ok"}


def test_a_line_asked_for_is_ended_at_the_price_of_another_no_graver(coarse: Job) -> None:
    """More room ends it; the looser case then holds less by friction. All together go on from there, to what holds."""
    assert wrong(coarse) == {COARSE}
    righted = put_right(coarse, only=COARSE)
    assert righted.taken == (("fit.clearance", "1.3mm"),)
    assert wrong(righted.job) == {v.name for v in righted.left} != {COARSE}
    assert graveness(righted.said) == graveness(judge(coarse, draft(coarse)))
    whole = put_right(coarse)
    assert whole.taken[0] == ("fit.clearance", "1.3mm")
    assert whole.taken[1] in {("flap.closing", "snap 10"), ("keeper.way", "round")}  # more room holds less by friction
    assert whole.left == ()
    assert not wrong(whole.job)
    assert put_right(coarse, untouched=("flap.", "keeper.", "mould.")).taken == ()  # where that leads nowhere, stay


def test_of_two_lines_only_the_one_asked_for_is_put_right(coarse: Job) -> None:
    job = coarse.typed("loop.width", "10mm").typed("seam.standoff", "1.2mm")
    before = wrong(job)
    name = next(v.name for v in judge(job, draft(job)) if v.ruling != "ok" and v.name != COARSE)
    righted = put_right(job, only=name)
    assert righted.taken
    assert name not in wrong(righted.job)
    assert COARSE in wrong(righted.job)
    assert len(wrong(righted.job)) <= len(before)


def test_trying_is_told_and_can_be_stopped(coarse: Job) -> None:
    told = list[tuple[str, float]]()

    def tell(said: str, share: float) -> None:
        told.append((said, share))
        raise InterruptedError

    with pytest.raises(InterruptedError):
        put_right(coarse, tell, only=COARSE)
    assert told[0][0] == f"{COARSE}: fit.clearance 1.3mm"
    assert 0 < told[0][1] <= 1


@pytest.mark.parametrize(
    ("number", "style", "pinned", "name"),
    [
        (7, "flat-back", ("leather.gather=0.01",), "Leather takes up the fullness"),
        (143, "folded-sheath", ("welt.width=6.23", "seam.margin=2.392"), "Margin suits the stack"),
        (107, "folded-sheath", ("loop.rise=67.929", "keeper.way=round", "seam.toe=58.035"), "Loop lands on leather"),
        (3, "folded-sheath", ("fold.uneven=1",), "Stitches come together"),
    ],
)
def test_what_was_pinned_too_tightly_is_let_go_of(number: int, style: str, pinned: tuple[str, ...], name: str) -> None:
    job = job_of(number, style)
    for each in pinned:
        job = job.typed(*each.split("=", 1))
    assert any(v.name == name and v.ruling == "stop" for v in judge(job, draft(job)))
    righted = put_right(job)
    assert not any(v.ruling == "stop" for v in judge(righted.job, draft(righted.job)))


def test_what_one_sheet_cannot_follow_is_made_of_two_where_that_is_asked() -> None:
    """The complaint tells what serves and what is typed for it; the picker's pictures stay as they are offered."""
    job = job_of(9, "folded-sheath")
    with pytest.raises(
        InputError, match=r"one folded sheet can follow.*make it of two panels, or make a gusseted box"
    ) as e:
        draft(job)
    assert [value for _, value in e.value.ways] == ["two-panel", "gusseted-box"]
    righted = put_right(job, only=DRAFTED)
    assert righted.taken == ((STYLE, "two-panel"),)
    assert righted.job.style == "two-panel"
    with pytest.raises(InputError):
        put_right(job, untouched=(STYLE,))
    with pytest.raises(InputError, match="is not a construction"):
        job.typed(STYLE, "tent")


@pytest.mark.parametrize(
    ("number", "style", "pinned", "ended"),
    [
        (15, "folded-sheath", {}, "Leather takes up the fullness"),  # blunt and folded: made of two
        (31, "two-panel", {}, "Hold by friction"),  # light, too narrow for a flap: the seam goes out for one
        (73, "folded-sheath", {"welt.width": "24"}, "Hold by friction"),  # what holds it asks for another way to hang
        (56, "folded-sheath", {}, "Loop is wide enough not to tilt"),  # as thin as a pen
        (239, "folded-sheath", {"seam.standoff": "2.56"}, "Leather takes up the fullness"),  # pinned for one sheet
    ],
)
def test_one_press_ends_what_no_remedy_ends_alone(number: int, style: str, pinned: dict[str, str], ended: str) -> None:
    job = job_of(number, style)
    for key, value in pinned.items():
        job = job.typed(key, value)
    assert ended in wrong(job)
    righted = put_right(job)
    assert righted.left == ()
    assert not wrong(righted.job)
