"""Where tags and words stand: beside what they belong to, and never on one another."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
import shapely
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tailor import demo
from tailor.core.draft.piece import Hole, Piece, Rule, panel, turned
from tailor.core.job import draft
from tailor.desk.card import letters
from tailor.desk.seating import FURTHEST, seated
from tailor.desk.stages import STAGES
from tailor.desk.tag import Tag
from tailor.desk.window import Window
from tailor.files import faces
from tailor.files.lettering import lettered
from tailor.files.sheet import lay, shortened
from tests.sweeps import some


def boxed(tag: Tag) -> shapely.Polygon:
    at = tag.geometry()
    return shapely.box(at.left(), at.top(), at.left() + at.width(), at.top() + at.height())


def looked_over(shown: Window) -> None:
    """Nothing that is written or tied on the board lies over anything else that is."""
    board = shown.board
    tags = {key: boxed(tag) for key, tag in board.tags.items() if tag.isVisible()}
    strings = {key: shapely.LineString(seat.string) for key, seat in board.tagged.seats.items()}
    size, wide, beside = letters(board.view)
    m, shift = board._linear
    written = [word for each in board.scene.lettered(size, wide, beside) for word in each.words]
    words = [shapely.Polygon(word.corners(wide) @ m + shift) for word in written]
    things = [*((key, box.buffer(-0.5)) for key, box in tags.items()), *(("word", word.buffer(-0.5)) for word in words)]
    found = shapely.STRtree([box for _, box in things])
    for k, (name, box) in enumerate(things):
        over = [things[n][0] for n in found.query(box, "intersects") if n != k]
        assert not over, (name, over, board.stage.name)
    for key, string in strings.items():
        assert string.length <= 2 * FURTHEST
        crossed = [things[n][0] for n in found.query(string, "intersects") if things[n][0] != key]
        assert not crossed, (key, crossed, board.stage.name)
        assert not any(string.crosses(other) for name, other in strings.items() if name != key)
        for piece in board.scene.pieces:
            shape = shapely.Polygon(piece.cut @ m + shift)
            tied = shapely.Point(string.coords[0])
            assert shape.distance(tied) < 3 or not shape.intersects(string), (key, piece.name)
    assert all(board.rect().contains(tag.geometry()) for tag in board.tags.values() if tag.isVisible())


@pytest.mark.parametrize("size", [(1280, 800), (1000, 700)])
def test_on_the_board_nothing_lies_over_anything_else(
    shown: Window, settle: Callable[[], None], size: tuple[int, int]
) -> None:
    shown.resize(*size)
    for name in some(demo.names()):
        shown.bench.lay_down(demo.job(name), None)
        settle()
        for stage in STAGES:
            shown.show_stage(stage)
            looked_over(shown)
        shown.board.more()  # at the last stage: all of them
        looked_over(shown)


def test_what_finds_no_place_stands_on_the_list_and_is_reached_by_tab(
    shown: Window, settle: Callable[[], None]
) -> None:
    shown.show_stage("Carry")
    settle()
    board = shown.board
    board.setFocus()
    seen = []
    for _ in range(40):
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Tab)
        tag = QApplication.focusWidget()
        if not isinstance(tag, Tag):
            break
        seen.append(tag.reading.key)
    wanted = [key for key, tag in board.tags.items() if tag.isVisible() and tag.reading.setting is not None]
    assert sorted(seen) == sorted(wanted)  # the first Tab from the board goes to the first of them
    assert all(board.tags[key].listed for key in ("keeper.way", "flap.closing"))
    tag = board.tags["loop.rise"]
    tag.setFocus()
    assert tag.height() > tag.home.height()  # touched, it opens
    assert board.rect().contains(tag.geometry())


def test_a_tag_keeps_its_seat_while_what_it_measures_moves_a_little() -> None:
    wanted = {"one": ((200.0, 200.0), (90.0, 20.0)), "other": ((230.0, 210.0), (90.0, 20.0))}
    room, none = (0.0, 0.0, 400.0, 400.0), np.empty((0, 2))
    first = seated(wanted, room, [], none)
    moved = {key: ((at[0] + 3.0, at[1]), size) for key, (at, size) in wanted.items()}
    then = seated(moved, room, [], none, before=first)
    for key in wanted:
        assert np.subtract(then[key].box, first[key].box) == pytest.approx([3.0, 0.0, 3.0, 0.0])
    blocked = seated(wanted, room, [(0.0, 0.0, 400.0, 400.0)], none)
    assert blocked == {}  # better none than one over what is there


@pytest.mark.parametrize(
    "clear", [(30.0, 40.0, 190.0, 360.0), (210.0, 40.0, 370.0, 360.0), (40.0, 210.0, 360.0, 370.0)]
)
def test_a_tag_stands_where_it_covers_no_hole(clear: tuple[float, float, float, float]) -> None:
    grid = np.stack(np.meshgrid(np.arange(20.0, 380.0, 3.0), np.arange(20.0, 380.0, 3.0)), axis=-1).reshape(-1, 2)
    holes = grid[~((grid > clear[:2]).all(axis=1) & (grid < clear[2:]).all(axis=1))]
    left, top, right, bottom = seated({"one": ((200.0, 200.0), (90.0, 20.0))}, (10, 10, 390, 390), [], holes)["one"].box
    assert not ((holes >= (left, top)) & (holes <= (right, bottom))).all(axis=1).any()


def over(piece: Piece, words: list[shapely.Polygon]) -> list[shapely.Polygon]:
    """The words of a piece that lie over a hole, a line or an edge of it."""
    lines = [shapely.LineString(points) for points in (*piece.stitch, *piece.folds, *(r.points for r in piece.rules))]
    lines += [shapely.Point(h.x, h.y).buffer(h.diameter / 2) for h in piece.holes]
    lines += [shapely.Point(f.x, f.y).buffer(f.cap / 2) for f in piece.fittings]
    lines.append(shapely.LinearRing(piece.cut))
    every = shapely.union_all(lines)
    return [word for word in words if word.buffer(-0.2).intersects(every)]


@pytest.mark.parametrize("name", demo.names())
def test_words_on_paper_lie_over_nothing(name: str) -> None:
    made = draft(demo.job(name))
    sheet = lay([shortened(piece) for piece in made.pieces])
    whole = lettered(sheet.pieces, 3.2, faces.wide)
    every = list[shapely.Polygon]()
    for piece, written in zip(sheet.pieces, whole, strict=True):
        own = [shapely.Polygon(w.corners(faces.wide)) for w in written.words if not w.text.isdigit()]
        assert over(piece, own) == []
        shape = shapely.Polygon(piece.cut)
        beside = [word for word in own if not shape.contains(word)]
        assert len(beside) <= len(written.pointers)
        assert any(w.text.lower().startswith(piece.name.lower()) for w in written.words if w.bold)
        every += own
    assert not any(a.buffer(-0.05).intersects(b) for k, a in enumerate(every) for b in every[:k])


def test_words_go_along_a_narrow_piece_and_beside_one_full_of_holes() -> None:
    strip = panel("strap", np.array([(-8.0, 0.0), (8.0, 0.0), (8.0, 120.0), (-8.0, 120.0)]), 3.0)
    (written,) = lettered([strip], 3.2, faces.wide)
    title = next(word for word in written.words if word.bold)
    assert title.angle % 180 == 90
    assert written.pointers == ()
    (lying,) = lettered([turned(strip, 90.0)], 3.2, faces.wide)
    assert next(word for word in lying.words if word.bold).angle % 180 == 0
    holes = tuple(Hole("main", "front", k, x, y, 1.2) for k, (x, y) in enumerate(
        (float(x), float(y)) for x in range(-6, 7, 3) for y in range(2, 120, 3)))  # fmt: skip
    full = Piece("strap", 1, "body", 3.0, "grain", strip.cut, holes=holes, marks=strip.marks,
                 rules=(Rule("skive", np.array([(-8.0, 10.0), (8.0, 10.0)])),))  # fmt: skip
    (outside,) = lettered([full], 3.2, faces.wide)
    box = shapely.Polygon(next(w for w in outside.words if w.bold).corners(faces.wide))
    assert box.disjoint(shapely.Polygon(full.cut))
    (pointer,) = outside.pointers
    assert shapely.Point(pointer[1]).distance(shapely.LinearRing(full.cut)) < 0.5
    assert shapely.Point(pointer[0]).distance(box) < 1.0
