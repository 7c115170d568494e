"""Pieces on the sheet and sheets on pages."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Polygon, box

from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.files import dxf, report
from tailor.files.linework import LINES, strokes
from tailor.files.paper import PAPERS
from tailor.files.pdf import OVERLAP, tile
from tailor.files.sheet import GAP, lay


@pytest.mark.parametrize("hand", ["right", "left"])
def test_pieces_lie_apart_and_inside_the_sheet(eaves: Job, hand: str) -> None:
    made = draft(eaves.typed("hand", hand))
    sheet = lay(made.pieces)
    shapes = [Polygon(p.cut) for p in sheet.pieces]
    assert shapes[0].distance(shapes[1]) >= GAP - 1e-9
    whole = box(0, 0, sheet.width, sheet.height)
    for before, after, shape in zip(made.pieces, sheet.pieces, shapes, strict=True):
        assert whole.contains(shape)
        assert shape.exterior.distance(whole.exterior) >= GAP - 1e-9
        assert after.area == pytest.approx(before.area)
        shift = after.cut[0] - before.cut[0]
        assert np.allclose(after.cut - before.cut, shift)
        for a, b in zip(after.stitch + after.folds, before.stitch + before.folds, strict=True):
            assert np.allclose(a - b, shift)
        assert np.allclose([(h.x, h.y) for h in after.holes] - shift, [(h.x, h.y) for h in before.holes])
        assert np.allclose([(m.x, m.y) for m in after.marks] - shift, [(m.x, m.y) for m in before.marks])


@pytest.mark.parametrize("paper", PAPERS)
def test_tiles_cover_the_sheet_and_share_their_overlap(sheath: Draft, paper: str) -> None:
    sheet = lay(sheath.pieces)
    tiling = tile(sheet, paper)
    pages = {(t.column, t.row): box(t.x, t.y, t.x + tiling.width, t.y + tiling.height) for t in tiling.tiles}
    assert shapely.union_all(list(pages.values())).contains(box(0, 0, sheet.width, sheet.height))
    for (column, row), page in pages.items():
        if (column + 1, row) in pages:
            shared = page.intersection(pages[column + 1, row])
            assert shared.bounds[2] - shared.bounds[0] == pytest.approx(OVERLAP)
        if (column, row + 1) in pages:
            shared = page.intersection(pages[column, row + 1])
            assert shared.bounds[3] - shared.bounds[1] == pytest.approx(OVERLAP)
    assert len({t.label for t in tiling.tiles}) == tiling.rows * tiling.columns
    with pytest.raises(InputError, match="a4 or letter"):
        tile(sheet, "foolscap")


def test_every_stroke_has_a_style_and_lies_on_its_piece(sheath: Draft) -> None:
    for piece in sheath.pieces:
        inside = Polygon(piece.cut).buffer(0.05)
        kinds = set()
        for stroke in strokes(piece):
            kinds.add(stroke.kind)
            assert stroke.kind in LINES
            if stroke.kind != "glue" and stroke.kind != "welt":
                assert inside.contains(LineString(stroke.points)), (piece.name, stroke.kind)
        assert {"cut", "stitch", "register"} <= kinds
    assert {"fold", "welt", "glue"} <= {s.kind for s in strokes(sheath.piece("body"))}
    assert {"trim", "skive"} <= {s.kind for s in strokes(sheath.piece("welt"))}


def test_no_two_kinds_of_line_look_alike() -> None:
    looks = {(s.colour, s.width, s.dashes) for s in LINES.values()}
    assert len(looks) == len(LINES)
    without_colour = {
        (s.width, s.dashes) for k, s in LINES.items() if k in ("cut", "fold", "stitch", "welt", "trim", "glue")
    }
    assert len(without_colour) == 6  # never by colour alone


def test_every_piece_says_which_way_up_it_goes(sheath: Draft) -> None:
    for piece in sheath.pieces:
        said = " ".join(m.text for m in piece.marks)
        for word in ("grain side up", "front", piece.name.capitalize(), f"cut {piece.count}"):
            assert word in said
        arrow = next(m for m in piece.marks if m.kind == "top")
        assert arrow.toward[1] > arrow.y  # it points to the mouth
        assert sum(m.kind == "register" for m in piece.marks) >= 3


def test_register_strokes_of_body_and_welt_fall_together(sheath: Draft) -> None:
    body, welt = ([m for m in p.marks if m.kind == "register"] for p in sheath.pieces)
    right = [m for m in body if m.x > 0]
    assert [(m.x, m.y, m.toward) for m in right] == [(m.x, m.y, m.toward) for m in welt]
    left = [(-m.x, m.y) for m in body if m.x < 0]
    assert np.allclose(left, [(m.x, m.y) for m in right])


def test_dxf_layers_hold_what_their_names_say(sheath: Draft) -> None:
    drawing = dxf.drawing(lay(sheath.pieces))
    used = {e.dxf.layer for e in drawing.modelspace()}
    assert {"BODY_CUT", "BODY_FOLD", "BODY_STITCH", "BODY_HOLE", "WELT_CUT", "WELT_TRIM", "WELT_SKIVE"} <= used
    for entity in drawing.modelspace().query("LWPOLYLINE"):
        assert entity.closed == entity.dxf.layer.endswith(("_CUT", "_TRIM"))
    assert drawing.header["$INSUNITS"] == 4  # millimetres


def test_the_report_tells_every_setting_and_the_ledger_as_check_does(eaves: Job) -> None:
    job = eaves.typed("mouth.y", "190mm").typed("loop.landing", "none")
    made = draft(job)
    said = judge(job, made)
    told = report.report(job, made, said)
    assert told["job"]["settings"]["mouth.y"] == 190
    assert told["job"]["settings"]["loop.rise"] is None
    assert told["hang"] is None
    assert report.report(eaves, draft(eaves), ())["hang"]["rest"] == draft(eaves).hang.rest
    assert {"belt.width", "loop.landing", "mouth.y"} <= set(told["job"]["pinned"])
    assert told["checks"] == report.checks(said)
    assert [c["verdict"] for c in told["checks"]] == sorted(
        (c["verdict"] for c in told["checks"]), key=["stop", "look", "ok"].index
    )
    for piece, entry in zip(made.pieces, told["pieces"], strict=True):
        assert Polygon(entry["cut"]).area == pytest.approx(piece.area, rel=1e-6)
        assert entry["face"] == "grain"
    main = told["seams"][0]
    assert main["thread"] > main["length"] * 2
    assert (main["count"] - 1) * main["chord"] == pytest.approx(main["length"], rel=0.01)
