"""Fastenings: never in a thread hole, never nearer than they may be, in step on every piece, with a post that suits."""

from __future__ import annotations

import io
import json
import os
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
import pytest
from shapely.geometry import Point, Polygon, box

from tailor import demo
from tailor.cli import main
from tailor.core.draft.stitch.fastening import THREAD_ROOM, Wanted, placed
from tailor.core.errors import InputError
from tailor.core.job import draft, judge
from tailor.core.leather.fastenings import Fastening, read
from tailor.core.maker import usual
from tests.lofts import CASES, case

HOLE = 1.2
FASTENINGS = usual().fastenings


def test_500_layouts_leave_none_in_a_thread_hole_or_too_near() -> None:
    rng = np.random.default_rng(7)
    sizes, nowhere = list(FASTENINGS.values()), 0
    for _ in range(500):
        wide, high = rng.uniform(25, 90, 2)
        corners = np.array([(0, 0), (wide, 0), (wide * rng.uniform(0.7, 1), high), (wide * rng.uniform(0, 0.3), high)])
        leather = Polygon(corners)
        inset, pitch = rng.uniform(4, 9), rng.uniform(3, 5)
        ring = leather.buffer(-inset).exterior
        holes = np.array([ring.interpolate(s).coords[0] for s in np.arange(0, ring.length, pitch)]).reshape(-1, 2)
        wanted = [
            Wanted(sizes[rng.integers(len(sizes))], *map(float, rng.uniform(0, 1, 2) * [wide, high]), give=12.0)
            for _ in range(rng.integers(1, 5))
        ]
        found = placed(wanted, leather, holes, HOLE)
        assert [p.wanted for p in found] == wanted
        put = [p for p in found if p.place is not None]
        nowhere += len(found) - len(put)
        for k, one in enumerate(put):
            at, size = Point(one.place), one.wanted.fastening
            assert leather.contains(at)
            assert leather.exterior.distance(at) >= size.edge
            if len(holes):
                assert np.hypot(*(holes - one.place).T).min() >= (size.hole + HOLE) / 2 + THREAD_ROOM
            for other in put[:k]:
                assert at.distance(Point(other.place)) >= max(size.apart, other.wanted.fastening.apart)
            assert one.moved == pytest.approx(at.distance(Point(one.wanted.x, one.wanted.y)))
            assert one.moved <= one.wanted.give + 1e-6
        for one in found:  # no room means no room: nowhere within its give would have done on an empty piece either
            if one.place is None and len(found) == 1:
                off, size = rng.uniform(-12, 12, (400, 2)), one.wanted.fastening
                for x, y in off[np.hypot(*off.T) < 12] + np.array([one.wanted.x, one.wanted.y]):
                    clear = np.hypot(*(holes - [x, y]).T).min() if len(holes) else 99
                    free = clear >= (size.hole + HOLE) / 2 + THREAD_ROOM + 0.05
                    in_it = leather.contains(Point(x, y)) and leather.exterior.distance(Point(x, y)) >= size.edge + 0.05
                    assert not (free and in_it)
    assert 0 < nowhere < 500


def test_where_it_is_free_it_stays_where_it_is_wanted() -> None:
    (one,) = placed([Wanted(FASTENINGS["snap 10"], 40, 30, 10)], box(0, 0, 80, 60), np.empty((0, 2)), HOLE)
    assert (one.place, one.moved) == ((40, 30), 0)
    half = Wanted(FASTENINGS["snap 10"], 40, 30, 10, box(44, 0, 80, 60))
    (kept,) = placed([half], box(0, 0, 80, 60), np.empty((0, 2)), HOLE)
    assert kept.place == pytest.approx((44, 30))


@pytest.mark.parametrize("hand", ["right", "left"])
@pytest.mark.parametrize("name", CASES)
def test_rivets_are_in_step_on_every_piece(name: str, hand: str) -> None:
    job = (
        case(name)
        .typed("seam.rivets", "rapid rivet 7")
        .typed("welt.width", "17mm")
        .typed("hand", hand)
        .typed("back.drain", "none")
    )
    made = draft(job)
    ends = 1 if made.plan.fold is not None else 2
    assert [h.found for h in made.hardware] == [True] * ends
    spots = []
    for piece in made.pieces:
        for edge in ("front", "welt", "back"):
            holes = piece.holes_of("main", edge)
            if len(holes) == 0 or (edge == "back" and piece.name == "template"):
                continue
            own = np.array([(f.x, f.y) for f in piece.fittings])
            near = [np.sort(np.hypot(*(holes[:6] - at).T)) for at in own]
            spots.append(min(near, key=lambda d: float(d[0])))
            for at in own:
                assert np.hypot(*(holes - at).T).min() >= (2.6 + made.value("seam.hole")) / 2 + 0.6
            if piece.name != "welt":
                cut = Polygon(made.plan.outline) if piece.name == "template" else Polygon(piece.cut)
                way = [-1, 1] if piece.name == "template" and made.mirrored else [1, 1]
                assert all(cut.exterior.distance(Point(at * way)) >= 5.5 for at in own)
    assert len(spots) == 3 if "template" not in [p.name for p in made.pieces] else len(spots) >= 2
    for other in spots[1:]:  # as far from each of the first holes, however the piece is turned or flattened
        assert other == pytest.approx(spots[0], abs=0.35)


def test_a_drain_lies_at_the_tip_of_a_flat_back_only() -> None:
    job = demo.job("shears").typed("back.drain", "grommet 5")
    made = draft(job)
    (one,) = made.hardware
    (fitting,) = made.piece("back").fittings
    assert one.found
    assert Polygon(made.plan.welt).contains(Point(-fitting.x, fitting.y))
    assert abs(fitting.y - made.shell.loft.tip) < 25
    assert [v.ruling.value for v in judge(job, made) if "grommet" in v.name] == ["ok", "ok"]
    assert draft(demo.job("radio").typed("back.drain", "grommet 5")).hardware == ()


def test_no_room_and_a_post_that_does_not_suit_are_told() -> None:
    hook = demo.job("spar-hook").typed("seam.rivets", "rapid rivet 9")
    told = {v.name: v for v in judge(hook, draft(hook)) if "rivet" in v.name}
    assert {v.ruling.value for n, v in told.items() if n.startswith("Room")} == {"stop"}
    assert "No room here" in told["Room for the rivet, mouth, right"].reason
    thick = demo.job("eaves-blade").typed("seam.rivets", "small screw").typed("welt.layers", "5")
    post = {v.name: v for v in judge(thick, draft(thick))}["Post of the screw, mouth"]
    assert post.ruling.value == "stop"
    rivet = FASTENINGS["copper rivet"]
    assert rivet.post(9.0) == 13
    assert rivet.post(3.0) == 10
    assert rivet.post(40.0) is None
    thin = case("whetstone").typed("seam.rivets", "copper rivet").typed("leather.thickness", "1mm")
    post = {v.name: v for v in judge(thin, draft(thin))}["Post of the rivet, mouth, right"]
    assert post.ruling.value == "look"
    assert "bends" in post.reason


TABLE = "name,kind,hole,cap,edge,apart,setting,posts\nmine,rivet,3,8,6,12,2,6;9\n"


def test_a_table_of_ones_own_is_read_or_refused_by_the_row() -> None:
    assert read(TABLE, "mine.csv") == {"mine": Fastening("mine", "rivet", 3, 8, 6, 12, 2, (6, 9))}
    for text, said in (
        (TABLE.replace("apart,", ""), "mine.csv: it has no column 'apart'"),
        (TABLE.replace("6;9", "long"), "row 2: it has a size that is no number"),
        (TABLE + TABLE.splitlines()[1], "row 3: 'mine' is there twice"),
        (TABLE.replace("3,8,", "9,8,"), "row 2: its sizes cannot be"),
        ("", "no column"),
    ):
        with pytest.raises(InputError, match=said.replace("(", r"\(")):
            read(text, "mine.csv")


def test_a_loop_that_snaps_open_has_its_snaps_on_strap_and_back() -> None:
    job = demo.job("shears").typed("loop.foot", "snap 10").typed("loop.width", "34mm").typed("back.drain", "none")
    made = draft(job)
    strap, back = made.piece("loop"), made.piece("back")
    assert len(strap.fittings) == len(back.fittings) == 2  # a wide foot gets two
    assert [s.name for s in made.seams] == ["main", "loop row 1", "loop row 2"]
    on_strap, on_back = (np.array([(f.x, f.y) for f in p.fittings]) for p in (strap, back))
    assert np.ptp(on_strap[:, 0]) == pytest.approx(np.ptp(on_back[:, 0])) == pytest.approx(34 - 2 * 8)
    for at in on_strap:
        assert Polygon(strap.cut).exterior.distance(Point(at)) == pytest.approx(8, abs=1e-6)
    # closed round the belt, the strap reaches: from row to snap it is longer than the back between them
    row = strap.holes_of("loop row 2", "tab")[0, 1]
    apart = back.holes_of("loop row 2", "back")[0, 1] - on_back[0, 1]
    assert 1 < (row - on_strap[0, 1]) - apart < 6
    assert [h.found for h in made.hardware] == [True, True]
    assert {v.ruling.value for v in judge(job, made) if "snap" in v.name} == {"ok"}
    narrow = job.typed("loop.width", "14mm")
    one = draft(narrow)
    assert len(one.piece("loop").fittings) == 1
    assert {v.ruling.value for v in judge(narrow, one) if v.name.startswith("Room for the snap")} == {"stop"}
    thick = job.typed("leather.thickness", "4mm")
    assert {v.ruling.value for v in judge(thick, draft(thick)) if v.name.startswith("Post of the snap")} == {"stop"}


OWN = "name,kind,hole,cap,edge,apart,setting,posts\n"


def told(folder: Path, *words: str) -> subprocess.CompletedProcess[str]:
    """The command line with a maker's own tables."""
    (folder / "tailor").mkdir(exist_ok=True)
    out, err = io.StringIO(), io.StringIO()
    with mock.patch.dict(os.environ, XDG_CONFIG_HOME=str(folder)), redirect_stdout(out), redirect_stderr(err):
        try:
            status = main(list(words))
        except SystemExit as left:  # of --help
            status = int(left.code or 0)
    return subprocess.CompletedProcess(words, status, out.getvalue(), err.getvalue())


def test_a_makers_own_table_is_used_over_the_shipped_one(tmp_path: Path) -> None:
    laid = told(tmp_path, "tables")
    assert [Path(line).name for line in laid.stdout.split()] == ["fastenings.csv", "trimmings.csv", "habits.csv"]
    own = tmp_path / "tailor" / "fastenings.csv"
    assert read(own.read_text(), "mine") == dict(FASTENINGS)
    own.write_text(OWN + "big press 20,snap,5,20,12,26,1.5,5;7;9\nsnap 10,snap,3.5,11,8,16,1.5,6\n")
    job = tmp_path / "job.tailor"
    stations = tmp_path / "stations.csv"
    stations.write_text(demo.measurements("shears"))
    made = ("new", str(job), "--style", "flat-back", "--stations", str(stations), "--set", "keeper.way=over")
    assert told(tmp_path, *made, "keeper.button=big press 20").returncode == 0
    checked = json.loads(told(tmp_path, "check", str(job), "--json").stdout)
    assert any(c["name"].startswith("Post of the snap, keeper") for c in checked)
    helped = told(tmp_path, "new", "--help").stdout
    assert "grommet 5" in helped  # those that are not in it stay
    assert "big press 20" in helped
    elsewhere = subprocess.run([sys.executable, "-m", "tailor.cli", "check", str(job)], capture_output=True, text=True)
    assert elsewhere.returncode == 2  # another maker has none: it is read, and told of where it is wanted
    assert elsewhere.stderr.startswith("keeper.button: there is no fastening called 'big press 20'")
    assert told(tmp_path, "set", str(job), "keeper.button=small press").returncode == 2
    assert told(tmp_path, "tables").returncode == 0
    assert "big press 20" in own.read_text()  # what is there already is never written over


@pytest.mark.parametrize(("text", "said"), [(OWN + "mine,snap,wide,9,8,9,1,5\n", "row 2"), ("x", "no column")])
def test_a_table_with_a_slip_is_told_of_and_the_bench_stays_open(text: str, said: str, tmp_path: Path) -> None:
    told(tmp_path, "tables")
    (tmp_path / "tailor" / "fastenings.csv").write_text(text)
    done = told(tmp_path, "demo-data", str(tmp_path / "demo"))
    assert done.returncode == 0
    assert said in done.stderr
    assert done.stderr.count("\n") == 1
    assert "what is usual is used" in done.stderr


@pytest.mark.parametrize("name", demo.names())
def test_every_fastening_has_the_room_that_its_table_asks(name: str) -> None:
    """Measured on the pieces: to their edges, from cap to thread holes, and to whatever else is set in them."""
    job = demo.job(name)
    for piece in draft(job).unmarked().pieces:
        leather = Polygon(piece.cut, list(piece.openings))
        for fitting in piece.fittings:
            size = job.settings.maker.fastenings.get(fitting.name)
            if size is None:  # a plain hole
                continue
            at = Point(fitting.x, fitting.y)
            assert leather.contains(at)
            assert leather.boundary.distance(at) >= size.edge - 0.05
            holes = [Point(h.x, h.y).distance(at) - h.diameter / 2 for h in piece.holes]
            assert min(holes, default=size.cap) >= size.cap / 2
            others = [Point(f.x, f.y).distance(at) for f in piece.fittings if f.place != fitting.place or not f.place]
            assert min((far for far in others if far > 0), default=size.apart) >= size.apart - 0.05


def test_a_fastening_keeps_from_edges_holes_and_other_fastenings_but_not_from_its_own() -> None:
    from tailor.core.draft.flat_goods.work import _room
    from tailor.core.draft.piece import Fitting, panel, punched

    size = usual().fastenings["rapid rivet 9"]
    bare = panel("p", np.array([[0.0, 0], [100, 0], [100, 60], [0, 60]]), 2.0)
    (near,) = punched("s", "e", np.array([[50.0 + (size.cap + 1.0) / 2 - 0.1, 30.0]]), 1.0)
    other = Fitting("rapid rivet 9", 50 + size.apart - 0.1, 30.0, size.hole, size.cap, "left")
    assert _room(bare, 50, 30, size, "here")
    assert not _room(bare, 50, size.edge - 0.1, size, "here")
    assert not _room(replace(bare, holes=(near,)), 50, 30, size, "here")
    assert _room(replace(bare, holes=(replace(near, x=near.x + 0.2),)), 50, 30, size, "here")
    assert not _room(replace(bare, fittings=(other,)), 50, 30, size, "here")
    assert _room(replace(bare, fittings=(replace(other, place="here"),)), 50, 30, size, "here")
    assert _room(replace(bare, fittings=(replace(other, x=other.x + 0.2),)), 50, 30, size, "here")
