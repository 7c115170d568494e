"""Schools: what another way of working changes of the steps, and what they use up, counted another way."""

from __future__ import annotations

import json
import zlib
from dataclasses import replace
from functools import cache
from pathlib import Path

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.cli import main
from tailor.core.bench.changed import changed
from tailor.core.bench.derived import derived
from tailor.core.bench.finishing import Edge, of_the_whole
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import QUESTIONS, School
from tailor.core.bench.steps import Doing, Steps
from tailor.core.bench.supplies import Kind
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import draft
from tailor.core.shop.agenda import Closed
from tailor.core.shop.closing import pictures
from tailor.core.shop.made import Made
from tailor.core.shop.needs import needs
from tailor.core.together.closing import CUT, EDGE, FLESH, GRAIN, METAL, THING, THREAD, TOOLED

DYES = dict.fromkeys(
    (GRAIN, FLESH, EDGE, CUT, THREAD, METAL, THING, TOOLED, "lining", "foam", "board", "card", "zip"), (180, 120, 60)
)


@cache
def made(name: str, *settings: tuple[str, str]) -> Draft:
    job = demo.job(name)
    for key, text in settings:
        job = job.typed(key, text)
    return draft(job)


def of(name: str, *settings: tuple[str, str], **school: str) -> Steps:
    return derived(made(name, *settings), Rates(), School(**school))


def waits(steps: Steps, before: str, after: str) -> int:
    return max(f.least for f in steps.follows if (f.before, f.after) == (before, after))


def test_every_school_there_is_gives_steps_that_can_be_done() -> None:
    for question, those in QUESTIONS.items():
        for word in those:
            for name in ("eaves-blade", "radio", "laser-level", "crew-cards"):
                steps = of(name, **{question: word})
                keys = {doing.key for doing in steps.doings}
                assert steps.earlier("try") == keys - {"try"}, (question, word, name)
                assert all(key not in steps.earlier(key) for key in keys)
                assert (question, word) in {(each.question, each.word) for each in steps.schools} or question == "fold"
    with pytest.raises(InputError, match="groove: 'deep' is no school; give front"):
        School(groove="deep")


def test_a_groove_is_cut_where_the_thread_will_lie_and_not_in_thin_leather() -> None:
    front, both = of("eaves-blade", groove="front"), of("eaves-blade", groove="both")
    key = "groove the main seam"
    assert key in front.earlier("pierce the main seam")
    assert both[key].minutes == pytest.approx(2 * front[key].minutes)
    (seam,) = [seam for seam in made("eaves-blade").seams if seam.name == "main"]
    assert front[key].minutes == pytest.approx(2.0 * seam.length / 1000)
    assert not [d for d in of("eaves-blade", groove="none").doings if d.key.startswith("groove")]
    for thin in (("leather.thickness", "1.2"), ("stitch.method", "whip")):
        assert key not in of("eaves-blade", thin), thin


def test_what_a_seam_is_holed_with_says_when_and_how() -> None:
    awl, chisel = of("whetstone"), of("whetstone", ("stitch.holes", "chisel"))
    glue, pierce = "glue the main seam", "pierce the main seam"
    assert glue in awl.earlier(pierce)
    assert pierce in chisel.earlier(glue)  # each piece by itself, while it lies flat
    assert "true the main seam" in chisel.earlier("sew the main seam")
    needle, drill = of("whetstone", ("stitch.holes", "needle")), of("whetstone", ("stitch.holes", "drill"))
    assert "eye protection" in drill[pierce].caution
    assert not awl[pierce].caution
    (seam,) = made("whetstone", ("stitch.holes", "needle")).seams
    assert needle[pierce].minutes == pytest.approx(2.0 * seam.length / 1000)
    assert needle[pierce].minutes < awl[pierce].minutes
    assert {each.question: each.word for each in drill.schools}["hole"] == "drill"


def test_a_fold_is_damp_or_thinned_and_takes_glue_once_it_is_dry() -> None:
    wet, gouged = of("eaves-blade", fold="wet"), of("eaves-blade", fold="gouged")
    assert waits(wet, "fold damp body", "fold body") == 20
    assert waits(wet, "fold body", "glue the main seam") == 60
    assert waits(gouged, "fold body", "glue the main seam") == 0
    assert "fold thin body" in gouged.earlier("fold body")
    thick = made("eaves-blade").piece("body").thickness
    assert f"{0.4 * thick:.1f} mm deep" in gouged["fold thin body"].tools
    assert "blade turns" in gouged["fold thin body"].caution
    assert [key for key in ("sew the loop",) if key in wet and key not in wet.earlier("fold body")] == []
    assert not [d for d in of("radio").doings if d.key.startswith("fold")]  # two panels
    assert "fold" not in {each.question for each in of("radio").schools}


def test_what_is_cut_proud_is_trimmed_before_it_is_trued() -> None:
    proud, sized = of("eaves-blade", ("welt.proud", "3")), of("eaves-blade", ("welt.proud", "0"))
    key = "trim the main seam"
    assert key not in sized
    assert "join the main seam" in proud.earlier(key)
    assert key in proud.earlier("true the main seam")
    assert "cut proud" in {each.word for each in proud.schools}
    pva = of("eaves-blade", ("welt.proud", "3"), glue="pva")
    assert waits(pva, "join the main seam", key) == 45  # held until it has taken, and then cut


def test_light_thread_is_never_dyed_whatever_the_school() -> None:
    dark, light = of("whetstone", dye="after", thread="dark"), of("whetstone", dye="after", thread="light")
    assert "sew the main seam" in dark.earlier("dye")
    assert "dye" in light.earlier("sew the main seam")
    (why,) = [each.why for each in light.schools if each.question == "dye"]
    assert "light thread" in why
    assert light["sew the main seam"].uses.startswith("light thread")


@pytest.mark.parametrize(
    ("name", "then", "first", "why", "school"),
    [
        ("whetstone", "sew the main seam", "dye", "never gives it back", {"dye": "after", "thread": "light"}),
        ("radio", "wax", "mould front blank", "wax keeps water out", {}),
        ("eaves-blade", "glue the main seam", "fold body", "cannot be folded", {}),
        ("eaves-blade", "pierce the main seam", "groove the main seam", "lie in the groove", {}),
    ],
)
def test_what_can_never_be_mended_is_told_with_why(name, then, first, why, school) -> None:
    steps = of(name, **school)
    (missing,) = steps.missing(then, {doing.key for doing in steps.doings} - {first, then})
    assert (missing.before, why in missing.why) == (first, True)


def test_coats_wait_for_one_another() -> None:
    for finish in ("paint", "resin"):
        steps = of("whetstone", finish=finish, dye="after")
        assert waits(steps, "coat", "wax") == 60
        assert waits(steps, "dye", "coat") == 240
        assert "edges" in steps.earlier("dye")
    assert "coat" not in of("whetstone", finish="wax")
    assert "burnish" not in of("whetstone", finish="paint")["edges"].tools
    resin = of("whetstone", finish="resin")
    area = sum(p.area * p.count for p in made("whetstone").pieces if p.leather == "body") / 1e6
    assert resin["wax"].uses == f"finish {max(60 * area, 1):.0f} ml"


@pytest.mark.parametrize(
    ("stack", "outer", "bevel", "grits"),
    [
        (1.2, 1.2, 0.6, (400, 600)),  # a thin single edge: half of it, and no coarse paper
        (3.0, 3.0, 0.6, (240, 400, 600)),
        (5.2, 2.6, 1.0, (120, 240, 400, 600)),  # a stack begins coarse, to be one
        (9.0, 3.0, 1.5, (120, 240, 400, 600)),
        (9.0, 1.3, 0.6, (120, 240, 400, 600)),  # no more than half the layer that is bevelled
        (0.9, 0.9, 0.0, (400, 600)),
    ],
)
def test_an_edge_is_finished_as_its_stack_asks(
    stack: float, outer: float, bevel: float, grits: tuple[int, ...]
) -> None:
    edge = Edge("e", 100.0, stack, outer)
    assert (edge.bevel, edge.grits) == (bevel, grits)
    acts = edge.acts(School(dye="after"))
    order = [act.split()[0] for act in acts]
    assert order == (["bevel"] if bevel else []) + ["damp", "sand", "burnish", "dye", "burnish"]


def test_the_finishing_plan_tells_every_edge_that_is_left() -> None:
    drafted = made("whetstone")
    plan = of_the_whole(drafted, drafted.seams, 0.0)
    assert plan[0].stack == drafted.seams[0].stack
    around = sum(
        shapely.LinearRing(p.cut).length * p.count
        for p in drafted.pieces
        if p.leather == "body" and p.role != "template"
    )
    assert sum(edge.length for edge in plan) == pytest.approx(around - drafted.seams[0].length, rel=1e-6)
    tray = made("peg-tray")
    angle = np.array([[0.0, 0], [60, 0], [60, 20], [20, 20], [20, 60], [0, 60]])  # five corners out, one in
    for ring in (angle, angle[::-1]):
        shaped = replace(tray, pieces=tuple(replace(p, cut=ring) if p.name == "tray" else p for p in tray.pieces))
        assert of_the_whole(shaped, (), 0.0)[0].corners == 5


@pytest.mark.parametrize("name", ["eaves-blade", "radio", "whetstone", "laser-level", "kit-bag"])
def test_what_steps_use_up_is_what_a_draft_needs(name: str) -> None:
    """Summed over the steps, against what the shop reckons on the draft."""
    steps, wanted = of(name), {need.kind: need.amount for need in needs([Made(made(name), name, "firm")])}
    thread = sum(
        float(word.removesuffix(" m")) for doing in steps.doings if doing.key.startswith("sew ")
        for word in doing.uses.split(", ")[1:]
    )  # fmt: skip
    assert thread == pytest.approx(wanted[Kind.THREAD], abs=0.006 * len(made(name).seams))
    glue = [float(doing.uses.split()[1]) for doing in steps.doings if doing.key.startswith("glue ")]
    assert sum(glue) <= wanted[Kind.GLUE] + len(glue)  # each rounded, to a drop at least
    assert glue


def test_what_another_school_moved_is_told_and_nothing_else() -> None:
    before = of("whetstone", dye="before")
    assert changed(before, before) == ()
    found = changed(before, of("whetstone", dye="after"))
    assert [line for line in found if line.startswith("moved")] == [
        "moved: dye, after: bevel, sand and burnish the edges"
    ]
    assert not [line for line in found if line.startswith(("new", "no longer"))]
    grooved = changed(of("whetstone", groove="none"), of("whetstone", groove="front"))
    assert len(grooved) == 1
    assert grooved[0].startswith("new: groove the main seam, ")
    assert grooved[0].endswith("after: true up the main seam")
    solvent = changed(before, of("whetstone", dye="before", glue="solvent"))
    assert all(" after, not " in line for line in solvent)
    assert any("10 to 30 min after, not 15 to 60 min" in line for line in solvent)
    one, other = (Steps([Doing(k, k, (), 5, "") for k in row]) for row in ("abcd", "dabc"))
    assert changed(one, other) == ("moved: d, first of all",)


@pytest.mark.parametrize("name", ["eaves-blade", "laser-level", "spar-hook"])
def test_a_thing_is_seen_as_far_as_it_is_closed(name: str) -> None:
    steps, whole = of(name), {piece.name for piece in made(name).unmarked().pieces if piece.role != "template"}
    assert not [key for key in steps.together if key.startswith(("cut", "mark", "thin", "edge "))]
    assert set(steps.together["try"]) == whole
    for key, names in steps.together.items():
        for before in steps.earlier(key):
            assert set(steps.together.get(before, ())) <= set(names), (before, key)
    (closed,) = [found for found in pictures("line", made(name), steps, DYES) if isinstance(found, Closed)]
    wide, high = closed.size
    shown = {}
    hangs = {"shoulder strap", "buckle strap"}  # and run out of the picture
    for names, packed in closed.pictures.items():
        picture = np.frombuffer(zlib.decompress(packed), dtype=np.uint8).reshape(high, wide, 4)
        shown[names] = int((picture[..., 3] > 0).sum())
        if hangs.isdisjoint(names):  # all of it is in the picture
            assert not picture[0, :, 3].any()
            assert not picture[:, -1, 3].any()
        else:
            assert (picture[0, :, 3].any() or picture[:, -1, 3].any()) == (hangs <= set(names))
    assert shown[steps.together["try"]] == max(shown.values()) > 0.1 * wide * high


def test_a_plan_is_made_by_the_schools_that_are_asked_for(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    book, out = str(tmp_path / "mine.tailorshop"), tmp_path / "plan.json"
    assert main(["shop", "--book", book, "import", "--demo"]) == 0
    words = ["plan", "--book", book, "--order", "A pouch like the old one", "-o", str(out), "--plans", "2", "--json"]

    def steps(*more: str) -> dict[str, dict]:
        capsys.readouterr()
        assert main([*words, *more]) == 0
        return {id_.rpartition("/")[2]: told for id_, told in json.loads(capsys.readouterr().out)["what"].items()}

    plain, other = steps(), steps("--finish", "resin", "--groove", "both", "--dye", "after", "--thread", "light")
    assert plain["wax"]["name"] == "seal and wax"
    assert other["wax"]["name"] == "the second coat of finish"
    assert set(other) - set(plain) == {"coat", "dye"}
    groove = "groove the front seam"
    assert other[groove]["minutes"] == pytest.approx(2 * plain[groove]["minutes"], abs=1)
    assert main([*words, "--fold", "crumpled"]) == 2
    assert "is no school" in capsys.readouterr().err
