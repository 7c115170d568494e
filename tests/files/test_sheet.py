"""Pieces on the sheet and sheets on pages."""

from __future__ import annotations

import io
import itertools

import numpy as np
import pdfplumber
import pytest
import shapely
from hypothesis import given, settings
from hypothesis import strategies as st
from shapely import affinity
from shapely.geometry import LineString, Polygon, box

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece, panel, turned
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.files import dxf, faces, pdf, report
from tailor.files.linework import LINES, strokes
from tailor.files.paged import GAP as GAP_ON_PAPER
from tailor.files.paged import OVERLAP, TICKET, Page, paged, room_of
from tailor.files.paper import PAPERS
from tailor.files.printer import LINES as LINES_DRAWN
from tailor.files.printer import known, measured, remember
from tailor.files.sheet import GAP, lay
from tests.sweeps import about, some


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


def fits(piece: Piece, room: tuple[float, float]) -> bool:
    """Whether a piece goes on a sheet whole, any way round."""
    return any((np.ptp(turned(piece, angle).cut, axis=0) <= room).all() for angle in np.arange(0.0, 180.0))


def shown(page: Page, paper: str) -> list[Polygon]:
    """What a sheet shows of each of its pieces."""
    return [Polygon(piece.cut).intersection(box(0, 0, *room_of(paper))) for piece in page.pieces]


@pytest.mark.parametrize(("name", "paper"), some(itertools.product(demo.names(), PAPERS)))
def test_no_piece_that_fits_a_sheet_is_cut_and_no_word_crosses_an_edge(name: str, paper: str) -> None:
    pieces = draft(demo.job(name)).pieces
    room = room_of(paper)
    pages = paged(pieces, paper)
    assert [page.number for page in pages] == list(range(1, len(pages) + 1))
    assert [page.number for page in pages if page.ticket is not None] == [1]
    areas = dict.fromkeys((piece.name for piece in pieces), 0.0)
    for page in pages:
        assert page.pieces or page.ticket
        parts = shown(page, paper)
        for piece, part, written in zip(page.pieces, parts, page.written, strict=True):
            assert part.area > 0
            if fits(piece, room):
                assert part.area == pytest.approx(Polygon(piece.cut).area)
                shared = {side for side, _ in page.joins}  # nothing whole lies where another sheet is laid over this
                low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
                assert min(low) >= -1e-6
                assert (high <= np.array(room) + 1e-6).all()
                assert all(low[k] >= OVERLAP - 1e-6 for k, side in enumerate(("left", "below")) if side in shared)
                most = np.array(room) - OVERLAP + 1e-6
                assert all(high[k] <= most[k] for k, side in enumerate(("right", "above")) if side in shared)
            areas[piece.name] += part.area
            for word in written.words:
                assert box(0, 0, *room).contains(Polygon(word.corners(faces.wide)))
        ticket = [] if page.ticket is None else [box(*page.ticket, *np.add(page.ticket, TICKET))]
        every = [*parts, *ticket]
        assert not any(a.buffer(-0.01).intersects(b) for k, a in enumerate(every) for b in every[:k])
        for side, other in page.joins:
            back = {"left": "right", "right": "left", "above": "below", "below": "above"}[side]
            assert (back, page.number) in pages[other - 1].joins
    for piece in pieces:
        assert areas[piece.name] >= Polygon(piece.cut).area - 1e-6  # every part of it is on some sheet


def test_a_paper_that_is_not_known_is_refused(sheath: Draft) -> None:
    with pytest.raises(InputError, match="a4 or letter"):
        paged(sheath.pieces, "foolscap")


def test_a_printer_is_corrected_within_a_hundredth_and_says_so(sheath: Draft) -> None:
    printer = measured(150.9, 199.0)
    with pdfplumber.open(io.BytesIO(pdf.to_bytes(sheath.pieces, "Sheath", "a4", printer))) as found:
        (square,) = [r for r in found.pages[0].rects if abs(r["width"] / pdf.POINT - 100 / printer.across) < 0.01]
        assert "Corrected for this printer" in found.pages[0].extract_text()
    assert square["width"] * printer.across / pdf.POINT == pytest.approx(100.0, abs=0.01)
    assert square["height"] * printer.down / pdf.POINT == pytest.approx(100.0, abs=0.01)
    with pytest.raises(InputError, match="the driver scales the page"):
        measured(145.5, 200.0)
    assert known().true
    remember(printer)
    assert known() == printer
    with pdfplumber.open(io.BytesIO(pdf.calibration("a4"))) as found:
        lengths = [max(x["width"], x["height"]) / pdf.POINT for x in found.pages[0].lines]
    assert sorted(lengths)[-2:] == pytest.approx(LINES_DRAWN)


@settings(max_examples=about(12), deadline=None)
@given(
    st.lists(
        st.tuples(st.floats(8, 420), st.floats(8, 420), st.floats(0.2, 1.0), st.floats(0, 180)), min_size=1, max_size=7
    )
)
def test_sheets_hold_every_piece_once_and_apart_on_as_few_as_may_be(sizes: list[tuple[float, ...]]) -> None:
    """Brackets of any size, at any angle: no part is left out, none lies on another, and few sheets are taken."""
    pieces = []
    for k, (wide, high, leg, angle) in enumerate(sizes):
        corners = [(0, 0), (wide, 0), (wide, leg * high), (leg * wide, leg * high), (leg * wide, high), (0, high)]
        pieces.append(turned(panel(f"bracket {k}", np.array(corners, dtype=float), 2.0), angle))
    room = np.array(room_of("a4"))
    pages, alone = paged(pieces, "a4"), 1
    for piece in pieces:
        parts = [(page, own) for page in pages for own in page.pieces if own.name == piece.name]
        seen = [shapely.box(0, 0, *room).intersection(Polygon(own.cut)) for _, own in parts]
        first = parts[0][1].cut[0]
        whole = shapely.union_all(
            [affinity.translate(part, *(first - own.cut[0])) for part, (_, own) in zip(seen, parts, strict=True)]
        )
        assert whole.area == pytest.approx(Polygon(piece.cut).area, rel=1e-6)
        assert len(parts) == 1 or not fits(piece, tuple(room))
        alone += min(int(np.prod(np.ceil((np.ptp(turned(piece, a).cut, axis=0) - OVERLAP) / (room - OVERLAP)).clip(1)))
                     for a in (0.0, 90.0))  # fmt: skip
    for page in pages:
        parts = shown(page, "a4")
        assert all(a.distance(b) > GAP_ON_PAPER - 0.7 for k, a in enumerate(parts) for b in parts[:k])
    assert len(pages) <= alone


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
