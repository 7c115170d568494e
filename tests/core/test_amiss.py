"""What is amiss once it is put together: faults that are planted are found, and what is sound is not called so."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path as File

import numpy as np
import pytest
import trimesh

from tailor import demo
from tailor.cli import main
from tailor.core.carried.loft import Loft
from tailor.core.checks import together
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece
from tailor.core.job import draft
from tailor.core.placed.lies import Lie
from tailor.core.settings import Settings
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.order import ordered
from tailor.core.together.reach import Way, reached
from tests.lofts import typed
from tests.sweeps import some


def changed(made: Draft, name: str, by: Callable[[Piece], Piece]) -> Draft:
    return replace(made, pieces=tuple(by(p) if p.name == name else p for p in made.pieces))


def shifted(place: int, seam: str, x: float) -> Callable[[Piece], Piece]:
    def by(piece: Piece) -> Piece:
        holes = tuple(replace(h, x=h.x + x) if h.seam == seam and h.place == place else h for h in piece.holes)
        return replace(piece, holes=holes)

    return by


def unpunched(piece: Piece) -> Piece:
    return replace(piece, fittings=piece.fittings[1:])


def told_thinner(made: Draft, place: str) -> Draft:
    return replace(made, hardware=tuple(replace(h, stack=h.stack - made.value("leather.thickness"))
        if h.place == place else h for h in made.hardware))  # fmt: skip


PLANTED: dict[str, tuple[str, Callable[[Draft], Draft], str]] = {
    "a hole moved": ("crew-cards", lambda d: changed(d, "front", shifted(4, "main", 0.7)), "Stitches come together"),
    "a pocket shorter": ("site-book", lambda d: changed(d, "front pocket", lambda p: p.mapped(
        lambda at: at * [1.0, 0.97])), "Stitches come together"),
    "a pocket too near": ("site-book", lambda d: replace(changed(changed(d, "front pocket", lambda p: p.mapped(
        lambda at: at * [1.0, 0.97])), "cover", lambda p: p.mapped(lambda at: at * [1.0, 0.97]))),
        "What it holds goes in"),
    "a post a layer short": ("peg-tray", lambda d: told_thinner(d, "corner 2"), "Leather under the rapid rivet 9"),
    "a post of one layer": ("spar-bag", lambda d: told_thinner(d, "front handle, rivet 1"),
        "Leather under the rapid rivet 9"),
    "a hole left out": ("spar-bag", lambda d: changed(d, "front handle", unpunched), "Leather under the rapid rivet 9"),
    "a strap 5 mm off": ("kit-bag", lambda d: changed(d, "right under strap", lambda p: p.moved(np.array([0.0, 5.0]))),
        "Stitches come together"),
    "a piece mirrored": ("kit-bag", lambda d: changed(d, "body", lambda p: p.mapped(lambda at: at * [-1.0, 1.0])),
        "Stitches come together"),
    "a gusset too long": ("laser-level", lambda d: changed(d, "gusset", lambda p: p.mapped(lambda at: at * [1, 1.01])),
        "Stitches come together"),
    "a gusset too narrow": ("laser-level", lambda d: changed(d, "gusset", lambda p: p.mapped(
        lambda at: at * [0.96, 1])), "Stitches come together"),
    "a flap too short": ("laser-level", lambda d: changed(d, "back", lambda p: replace(p, fittings=tuple(
        replace(f, y=f.y - 2.0) if f.place == "flap, its button" else f for f in p.fittings))), "Shuts in its place"),
    "a tie a hole on": ("ridge-bag", lambda d: changed(d, "front zip strip", lambda p: replace(p, holes=tuple(
        replace(h, place=h.place + 1) for h in p.holes)[:-1])), "Stitches come together"),
    "a corner's hole in": ("spar-bag", lambda d: changed(d, "front", shifted(2, "right corner of the front", 0.8)),
        "Stitches come together"),
    "a corner's hole up": ("spar-bag", lambda d: changed(d, "front", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y + 0.8) if (h.seam, h.place) == ("right corner of the front", 2) else h for h in p.holes))),
        "Stitches come together"),
    "a plate's row too high": ("stapler", lambda d: changed(d, "back", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y + 1.5) if h.seam == "plate row 2" else h for h in p.holes))), "Stitches come together"),
    "a hole beside the leather": ("leggett", lambda d: changed(d, "front", shifted(9, "main", 12.0)),
        "Stitches come together"),
    "a panel mirrored": ("leggett", lambda d: changed(d, "front", lambda p: p.mapped(lambda at: at * [-1.0, 1.0])),
        "Stitches come together"),
    "a loop's row too low": ("eaves-blade", lambda d: changed(d, "body", lambda p: replace(p, holes=tuple(replace(h,
        y=h.y - 1.5) if (h.seam, h.edge) == ("loop row 2", "back") else h for h in p.holes))),
        "Stitches come together"),
    "a seam of another pitch": ("shearing-blade", lambda d: changed(d, "body", lambda p: replace(p, holes=tuple(
        replace(h, y=1.004 * h.y) if (h.seam, h.edge) == ("main", "back") else h for h in p.holes))),
        "Stitches come together"),
    "a larger thing": ("radio", lambda d: replace(d, held=tuple(replace(h, loft=Loft(tuple(replace(s, front=s.front +
        3.0) for s in h.loft.stations))) for h in d.held)), "What it holds goes in"),
    "a channel for less": ("marking-gauge", lambda d: replace(d, rounds=tuple(replace(r, thing=(r.thing[0] + 3.0,
        r.thing[1] + 3.0)) for r in d.rounds)), "What it holds goes in"),
}  # fmt: skip


@pytest.mark.parametrize("fault", PLANTED)
def test_a_fault_that_is_planted_is_found(fault: str) -> None:
    name, plant, verdict = PLANTED[fault]
    job = demo.job(name)
    made = draft(job).unmarked()
    before = {v.alike for v in together.verdicts(job.settings, made) if v.ruling != "ok"}
    after = {v.alike for v in together.verdicts(job.settings, plant(made)) if v.ruling != "ok"}
    assert not before
    assert verdict in after


@pytest.mark.parametrize(("into", "ruling"), [(0.2, "ok"), (0.55, "look"), (1.3, "stop")])
def test_leather_gives_a_share_of_its_thickness_and_no_more(into: float, ruling: str) -> None:
    job = demo.job("radio")
    made = draft(job).unmarked()

    def larger(by: float) -> Draft:
        grown = [
            replace(h, loft=Loft(tuple(replace(s, front=s.front + by) for s in h.loft.stations))) for h in made.held
        ]
        return replace(made, held=tuple(grown))

    thick = job.settings.number("leather.thickness")
    gap, by = Assembled(made).gaps[0].gap, 0.0
    for _ in range(5):  # grown until its leather would have to lie so far inside
        by += gap + into * thick
        gap = min(g.gap for g in Assembled(larger(by)).gaps)
    assert gap == pytest.approx(-into * thick, abs=0.02)
    told = {v.alike: v.ruling.value for v in together.verdicts(job.settings, larger(by))}
    assert told["What it holds goes in"] == ruling


def test_a_panel_goes_on_level_where_a_piece_reaches_beyond_it() -> None:
    lie = draft(demo.job("shears")).lies["front blank"]
    panel = lie.panel
    for row in (1, len(panel.uv) // 2, -2):
        for side, out in ((0, -1.0), (-1, 1.0)):
            edge = panel.uv[row, side]
            beyond = lie(edge + np.outer(np.array([0.5, 3.0, 8.0]), [out, 0.0])).at
            steps = np.diff(beyond, axis=0)
            assert np.linalg.norm(steps, axis=1) == pytest.approx([2.5, 5.0], rel=0.03)
            ways = steps / np.linalg.norm(steps, axis=1)[:, None]
            assert ways[0] @ ways[1] == pytest.approx(1.0, abs=1e-3)


def spoken(name: str, **settings: str) -> tuple[Settings, Draft]:
    job = typed(demo.job(name), **settings)
    return job.settings, draft(job).unmarked()


SOUND = [
    ("peg-tray", {"corner__made": "slit"}), ("peg-tray", {"corner__rivet": "snap 10", "leather__thickness": "3.2"}),
    ("laser-level", {"gusset__flange": "in"}), ("laser-level", {"gusset__flange": "in", "foam__thickness": "0"}),
    ("laser-level", {"foam__thickness": "0", "divider__count": "2"}),
    ("laser-level", {"handle__kind": "wrapped", "handle__reach": "300"}), ("spar-bag", {"divider__count": "2"}),
    ("kit-bag", {"pocket__count": "0", "divider__count": "3"}), ("kit-bag", {"rim__bar": "6", "pocket__count": "0"}),
    ("kit-bag", {"under__ring": "none", "bottom__made": "laminated"}), ("spar-bag", {"handle__kind": "strap"}),
    ("whetstone", {"flap__closing": "snap 10"}), ("whetstone", {"panel__lining": "none", "pocket__count": "1"}),
    ("crew-cards", {"pocket__count": "6"}), ("site-book", {"leather__thickness": "3"}),
    ("marking-gauge", {"tools__sizes": "30;4;22"}), ("ridge-bag", {"gusset__ease": "0.03"}),
    ("stapler", {"keeper__way": "over", "loop__landing": "sewn"}), ("leggett", {"loop__landing": "dangler"}),
    ("spar-hook", {"loop__landing": "dangler"}), ("eaves-blade", {"loop__landing": "dangler"}),
    ("kit-bag", {"gusset__flange": "in"}), ("spar-bag", {"handle__reach": "90"}),
    ("shearing-blade", {"leather__temper": "soft"}),
    ("shears", {"loop__landing": "back", "belt__width": "25"}), ("eaves-blade", {"loop__landing": "slots"}),
    ("eaves-blade", {"loop__landing": "handle"}), ("spar-hook", {"loop__landing": "sewn", "carry__cant": "15"}),
    ("radio", {"loop__landing": "sewn", "belt__width": "15", "flap__closing": "snap 10"}),
    ("radio", {"mould__where": "hollows"}),  # of which it has none, so that it is taut
    ("radio", {"patch__on": "front blank", "patch__kind": "reinforcement"}),
]  # fmt: skip


@pytest.mark.parametrize(("name", "typed"), some(SOUND))
def test_what_is_sound_is_not_called_amiss(name: str, typed: dict[str, str]) -> None:
    found = list(together.verdicts(*spoken(name, **typed)))
    assert not [v for v in found if v.ruling != "ok"]
    assert found


BACKED = [
    ("delivery-notes", {}, "lining", "cover"), ("site-book", {"panel__lining": "lined"}, "lining", "cover"),
    ("whetstone", {}, "front lining", "front"), ("whetstone", {}, "back lining", "back"),
    ("peg-tray", {"panel__lining": "lined", "lining__thickness": "1.5"}, "floor lining", "floor"),
    ("peg-tray", {}, "floor", "tray"), ("ridge-bag", {}, "front foam", "front"), ("ridge-bag", {}, "back foam", "back"),
    ("laser-level", {}, "front foam", "front"), ("laser-level", {"foam__thickness": "11"}, "back foam", "back"),
    ("laser-level", {}, "side foam", "gusset"), ("laser-level", {}, "side foam, the other", "gusset"),
    ("laser-level", {}, "floor foam", "gusset"),
]  # fmt: skip


def met(lie: Lie, at: np.ndarray, out: np.ndarray, flat: np.ndarray) -> float:
    """How far along a line from a place a piece lies, closed in on by its map from a flat point near there."""
    square = np.linalg.svd(out[None, :])[2][1:]  # two ways across the line
    for _ in range(6):
        here, right, up = (lie(np.array([flat + way])).at[0] for way in ([0.0, 0.0], [1e-4, 0.0], [0.0, 1e-4]))
        slope = square @ np.column_stack([right - here, up - here]) / 1e-4
        flat = flat - np.linalg.lstsq(slope, square @ (here - at), rcond=None)[0]
    return float(abs((lie(flat[None, :]).at[0] - at) @ out))


@pytest.mark.parametrize(("name", "typed", "inner", "outer"), BACKED)
def test_what_is_glued_or_laid_in_lies_on_the_leather(name: str, typed: dict[str, str], inner: str, outer: str) -> None:
    """A line square through it meets what it lies on half of both further out; no room is lost, nor any piece."""
    whole = Assembled(spoken(name, **typed)[1])
    lies_on = (whole.skins[inner].thickness + whole.skins[outer].thickness) / 2
    low, high = whole.pieces[inner].cut.min(axis=0), whole.pieces[inner].cut.max(axis=0)
    placed = whole.lies[inner](low + (high - low) * np.random.default_rng(3).uniform(0.06, 0.94, (40, 2)))
    between = [
        min(met(whole.lies[outer], at, out, flat) for _, flat in whole.skins[outer].crossed(at, out))
        for at, out in zip(placed.at, placed.out, strict=True)
    ]
    assert np.median(between) == pytest.approx(lies_on, abs=0.02)
    # where its leather goes round a corner a lining stands off a little, and foam is pressed
    assert min(between) > lies_on - (0.6 * whole.skins[inner].thickness if inner == "floor foam" else 0.05)
    assert max(between) < lies_on + 1.0
    assert min((gap.gap for gap in whole.gaps), default=0.0) > -0.6
    if inner == "lining":  # its feather stands out beyond the cover at both ends, glued round the spine
        ends = [np.abs(whole.skins[piece].placed.at).max(axis=0)[:2] for piece in (inner, outer)]
        assert ends[0] - ends[1] == pytest.approx([3.0, 3.0], abs=0.02)
    assert inner in [step.piece for step in Closing(whole, {}).steps[1:]]


@pytest.mark.parametrize("foam", ["6", "11"])
def test_foam_does_not_stand_through_rounded_corners(foam: str) -> None:
    """From the middle of the box no lower corner of it lies further out than the gusset there."""
    whole = Assembled(spoken("laser-level", foam__thickness=foam)[1])
    inside = whole.skins["front foam"].placed.at.mean(axis=0) * [1.0, 1.0, 0.0]
    for name, outer in (("floor foam", -1.0), ("side foam", 1.0), ("side foam, the other", 1.0)):
        cut = whole.pieces[name].cut
        ends = [(cut[:, 0].min(), 50.0), (cut[:, 0].max(), 50.0)] if outer < 0 else [(50.0, cut[:, 1].min())]
        for end in ends:
            placed = whole.lies[name](np.array([end]))
            corner = placed.at[0] + outer * placed.out[0] * whole.skins[name].thickness / 2
            way = corner - inside
            far = float(np.linalg.norm(way))
            out = min(deep for deep, _ in whole.skins["gusset"].crossed(inside, way / far) if deep > 0)
            assert far < out + whole.skins["gusset"].thickness / 2 + 0.3


@pytest.mark.parametrize(("wide", "tall", "ruling"), [("60", "70", "ok"), ("60", "110", "look"), ("120", "110", "ok")])
def test_a_pocket_is_no_deeper_than_fingers_reach(wide: str, tall: str, ruling: str) -> None:
    asked = {"patch__on": "front", "patch__width": wide, "patch__height": tall}
    job, made = spoken("spar-bag", **asked)
    margin = made.value("seam.margin")
    (pocket,) = Assembled(made).pockets
    assert pocket.piece == "pocket"
    assert pocket.deep == pytest.approx(float(tall) - margin, abs=1.0)
    assert pocket.width == pytest.approx(float(wide) - 2 * margin, abs=2.0)
    (told,) = [v for v in together.verdicts(job, made) if v.name == "Fingers reach down the pocket"]
    assert told.ruling == ruling
    for key, text in told.remedies:
        again = spoken("spar-bag", **{**asked, key.replace(".", "__"): text})
        assert all(v.ruling == "ok" for v in together.verdicts(*again))
    for kind in ("puckered pocket", "bellows pocket"):
        (opens,) = Assembled(spoken("spar-bag", **asked, patch__kind=kind)[1]).pockets
        assert opens.deep == pytest.approx(pocket.deep, abs=2.0)
        assert opens.width > pocket.width + 5
    for kind in ("reinforcement", "strap", "loop", "moulded pocket"):  # nothing is put in, or falls through, or shows
        assert not Assembled(spoken("spar-bag", patch__on="front", patch__kind=kind)[1]).pockets
    left = spoken("spar-bag", patch__on="front", patch__width=wide)[1]
    assert Assembled(left).pockets[0].deep < (81 if wide == "60" else 191)  # of itself it is reached


@pytest.mark.parametrize("over", [{"flap__closing": "plain"}, {"flap__closing": "snap 10"}, {"keeper__way": "over"}])
@pytest.mark.parametrize("name", ["shearing-blade", "leggett"])
def test_what_goes_over_the_top_is_sewn_where_it_comes_down(name: str, over: dict[str, str]) -> None:
    rows = [met for met in Assembled(spoken(name, **over)[1]).seams if met.name.startswith(("flap", "keeper"))]
    assert rows
    assert max(met.distance for met in rows) < 0.05


@pytest.mark.parametrize("landing", ["dangler", "slots"])
def test_what_hangs_below_a_flap_is_sewn_where_the_back_goes_on_evenly(landing: str) -> None:
    """Just below this flap the handle ends, and the back comes down by its thickness."""
    _, made = spoken("eaves-blade", flap__closing="plain", loop__landing=landing)
    rows = [met for met in Assembled(made).seams if met.name.startswith(("flap row", "ring row", "plate row"))]
    assert {met.name.split()[0] for met in rows} == {"flap", {"dangler": "ring", "slots": "plate"}[landing]}
    assert max(met.distance for met in rows) < 0.1
    _, bare = spoken("eaves-blade", flap__closing="none", loop__landing=landing)
    assert "loop.down" not in bare.reasons  # on an even back it hangs as high as it can
    lower = made.reasons["loop.down"]
    upper = max(row[:, 1].mean() for row in made.carriage.rows)
    assert dict(lower.inputs)["highest"] - upper == pytest.approx(lower.value, abs=1e-6)
    assert 0 < lower.value <= 50


def test_it_is_told_and_written_by_the_command_line(tmp_path: File, capsys: pytest.CaptureFixture[str]) -> None:
    demo.write(tmp_path)
    job = str(tmp_path / "kit-bag.tailor")
    for kind, unit in (("stl", 1.0), ("obj", 1.0), ("glb", 0.001)):
        model = tmp_path / f"bag.{kind}"
        assert main(["together", job, "--json", "-o", str(model)]) == 0
        found = json.loads(capsys.readouterr().out)
        solid = trimesh.load(model, force="mesh")
        # the caps' outer faces: the room across, and on either side where the leather lies, and half of it more
        asked, thick = draft(demo.job("kit-bag")), 2.2
        assert solid.extents[0] / unit == pytest.approx(asked.value("inside.across") + 2 * thick, abs=0.3)
    assert found["format"] == "tailor-together/1"
    assert {joint["name"] for joint in found["joints"]} >= {"left seam", "right seam", "pocket foot"}
    assert max(joint["distance"] for joint in found["joints"]) <= 0.3
    assert found["fails"] == []
    assert [step["piece"] for step in found["order"]] == [
        str(step.piece) for step in ordered(Assembled(asked.unmarked()))
    ]
    assert found["order"][1]["held"][0] == {
        "by": "pocket foot",
        "way": "sewn",
        "front": None,
        "back": None,
        "beside": [],
    }
    assert main(["set", job, "inside.across=150"]) == 0
    assert main(["together", job]) == 1
    assert "What it holds goes in" in capsys.readouterr().out
    assert main(["together", job, "-o", str(tmp_path / "bag.step")]) == 2
    assert "end its name in" in capsys.readouterr().err


def test_what_has_to_reach_a_seam_has_the_room_that_is_there_then() -> None:
    """Across a wall to its other side; into a case whose other panel is there, not to one that comes yet."""
    made = draft(demo.job("twine-spool"))
    whole = Assembled(made.unmarked())
    steps = ordered(whole)
    by = {step.piece: held for step, held in zip(steps, reached(whole, steps), strict=True)}
    for butt in by["back strip"]:
        assert (butt.way, butt.front, butt.beside) == (Way.SEWN, np.inf, ("wall",))
        assert butt.back == pytest.approx(made.value("inside.across"), abs=0.1)
    assert {each.way for each in by["right ring tab"]} == {Way.SET}
    assert {each.way for each in by["shoulder strap"]} == {Way.HUNG}
    whole = Assembled(draft(demo.job("whetstone")).unmarked())
    steps = ordered(whole)
    first, second, last = (held[0] for held in reached(whole, steps)[1:])
    assert (first.front, first.back) == (np.inf, np.inf)  # the other side is not there yet
    faces = [whole.skins[name] for name in ("front lining", "back lining")]
    apart = faces[0].placed.at[:, 2].max() - faces[1].placed.at[:, 2].min() - faces[0].thickness
    assert 5.0 < second.back == last.back < apart  # nearer to one another at their seam than over the stone


def test_a_seam_through_linings_is_as_thick_as_all_that_lies_there() -> None:
    """A lined slip case, its panels apart by their linings where they are sewn; a lined cover, its pockets on it."""
    job = demo.job("whetstone")
    made = draft(job)
    thick, lining = made.piece("front").thickness, made.piece("front lining").thickness
    (main,) = made.seams
    assert main.stack == pytest.approx(2 * (thick + lining))
    holes = [made.lies[name](made.piece(name).holes_of("main", name)[3:5]).at for name in ("front", "back")]
    offset = made.lies["front"](np.zeros((1, 2))).at[0, 2] - made.lies["front lining"](np.zeros((1, 2))).at[0, 2]
    apart = holes[0][:, 2] - holes[1][:, 2]
    assert apart == pytest.approx(2 * offset + lining, abs=0.01)
    cover = draft(demo.job("delivery-notes"))
    spot = cover.piece("front pocket").cut.mean(axis=0)[None, :]
    pocket = cover.lies["front pocket"](spot).at[0, 2]
    walls = [cover.lies[name](np.array([[x, 0.0]])).at[0] for name in ("lining", "cover") for x in (-120.0, 120.0)]
    near = min(abs(at[2] - pocket) for at in walls[:2])
    assert near == pytest.approx(
        (cover.piece("front pocket").thickness + cover.piece("lining").thickness) / 2, abs=0.15
    )
