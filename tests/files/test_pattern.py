"""Patterns read back by other libraries: sizes, areas, tiles."""

from __future__ import annotations

import hashlib
import io
import json
import re
from pathlib import Path

import ezdxf
import numpy as np
import pdfplumber
import pytest
import shapely
import svgelements
from shapely.geometry import LineString, MultiPoint, Polygon

from tailor import demo
from tailor.core.draft.stitch.marking import marking_strips
from tailor.core.job import Job, draft, mocked
from tailor.files import pattern
from tailor.files.linework import LINES
from tailor.files.paged import BORDER, FOOT
from tailor.files.paper import PAPERS
from tests.lofts import CASES, case

POINT = 72 / 25.4


@pytest.fixture(scope="module", params=["a4", "letter"])
def written(request: pytest.FixtureRequest, eaves: Job, tmp_path_factory: pytest.TempPathFactory) -> tuple[str, Path]:
    folder = tmp_path_factory.mktemp("pattern") / "made here"
    pattern.write(eaves.typed("hand", "left"), folder, request.param)
    return request.param, folder


def svg_cuts(folder: Path) -> dict[str, np.ndarray]:
    """Cut outlines in the SVG, in its own millimetres with y down."""
    svg = svgelements.SVG.parse(folder / "pattern.svg", ppi=25.4)
    found = {}
    for name in ("body", "welt"):
        (path,) = svg.get_element_by_id(f"{name}-cut").select(lambda e: isinstance(e, svgelements.Path))
        found[name] = np.array([(s.end.x, s.end.y) for s in path if s.end is not None])
    return found


def test_svg_dxf_and_report_agree_on_every_area(written: tuple[str, Path]) -> None:
    folder = written[1]
    report = json.loads((folder / "report.json").read_text())
    drawing = ezdxf.readfile(folder / "pattern.dxf")
    assert drawing.units == ezdxf.units.MM
    auditor = drawing.audit()
    assert not auditor.errors
    assert not auditor.fixes
    cuts = svg_cuts(folder)
    for piece in report["pieces"]:
        (outline,) = drawing.modelspace().query(f"LWPOLYLINE[layer=='{piece['name'].upper()}_CUT']")
        areas = [
            piece["area"],
            Polygon(piece["cut"]).area,
            Polygon(outline.get_points("xy")).area,
            Polygon(cuts[piece["name"]]).area,
        ]
        assert areas == pytest.approx([areas[0]] * 4, rel=1e-3)
        holes = drawing.modelspace().query(f"CIRCLE[layer=='{piece['name'].upper()}_HOLE']")
        assert len(holes) == len(piece["holes"])


def test_the_first_sheet_has_true_squares_and_a_map_and_the_others_a_rule(written: tuple[str, Path]) -> None:
    paper, folder = written
    with pdfplumber.open(folder / "pattern.pdf") as pdf:
        for number, page in enumerate(pdf.pages, 1):
            assert (page.width, page.height) == pytest.approx([s * POINT for s in PAPERS[paper]], abs=0.01)
            sides = sorted(round(r["width"] / POINT, 2) for r in page.rects)
            rules = [abs(x["x1"] - x["x0"]) / POINT for x in page.lines]
            text = page.extract_text()
            assert f"Sheet {number} of {len(pdf.pages)}" in text
            if number == 1:
                assert sides[-2:] == [100.0, 101.6]
                assert all(f"Sheet {n}:" in text for n in range(1, len(pdf.pages) + 1))
            else:
                assert sides == []
                assert any(abs(rule - 50.0) < 0.01 for rule in rules)
            assert page.curves  # none is empty


def test_sheets_rejoin_to_the_svg(written: tuple[str, Path]) -> None:
    paper, folder = written
    cuts = {name: LineString(np.vstack([c, c[:1]]) * [1, -1]) for name, c in svg_cuts(folder).items()}
    room = shapely.box(0, 0, PAPERS[paper][0] - 2 * BORDER, PAPERS[paper][1] - 2 * BORDER - FOOT)
    seen: dict[str, list[LineString]] = {name: [] for name in cuts}
    with pdfplumber.open(folder / "pattern.pdf") as pdf:
        for page in pdf.pages:
            for curve in page.curves:
                points = np.array([(px, float(page.height) - py) for px, py in curve["pts"]]) / POINT
                if len(points) < 200 or curve["linewidth"] < 0.45 * POINT:
                    continue
                line = LineString(points - np.array([BORDER, BORDER + FOOT]))
                ways = [(n, t, shapely.affinity.rotate(line, t, origin=(0, 0))) for n in cuts for t in (0, -90)]
                off = [np.ptp(moved.coords, axis=0) - np.ptp(cuts[n].coords, axis=0) for n, _, moved in ways]
                name, turn, moved = ways[int(np.abs(off).sum(axis=1).argmin())]
                by = np.min(cuts[name].coords, axis=0) - np.min(moved.coords, axis=0)
                shown = shapely.affinity.rotate(line.intersection(room), turn, origin=(0, 0))
                assert shapely.affinity.translate(moved, *by).hausdorff_distance(cuts[name]) < 0.1
                seen[name].append(shapely.affinity.translate(shown, *by))
    for name, parts in seen.items():
        whole = shapely.points(cuts[name].segmentize(1.0).coords)
        assert shapely.distance(whole, shapely.union_all(parts)).max() < 0.1


def test_lines_look_the_same_on_paper_and_in_svg(written: tuple[str, Path]) -> None:
    text = (written[1] / "pattern.svg").read_text()
    for kind in ("cut", "fold", "stitch", "welt", "glue", "trim"):
        style = LINES[kind]
        group = re.search(rf'<g [^>]*id="\w+-{kind}"[^>]*>', text)[0]
        assert f'stroke="{style.colour}"' in group
        assert ("stroke-dasharray" in group) == bool(style.dashes)


REPORT = {
    "hang": dict, "parts": list, "inside": type(None), "hardware": list, "edges_first": list,
    "format": str, "units": str, "job": dict, "stations": list, "pieces": list, "seams": list, "checks": list,
    "reasons": list, "files": dict, "tooling": list,
}  # fmt: skip


def test_the_report_keeps_its_contract(written: tuple[str, Path], eaves: Job) -> None:
    report = json.loads((written[1] / "report.json").read_text())
    assert {k: type(v) for k, v in report.items()} == REPORT
    assert report["format"] == "tailor-report/1"
    for name, said in report["files"].items():
        assert hashlib.sha256((written[1] / name).read_bytes()).hexdigest() == said
    assert set(report["files"]) == {p.name for p in written[1].iterdir()} - {"report.json"}
    assert set(report["stations"][0]) == {"y", "standoff", "x_welt", "x_stitch", "front_path", "back_path"}
    assert set(report["checks"][0]) == {"name", "verdict", "value", "limit", "unit", "reason", "where"}
    assert {"name", "value", "unit", "rule", "inputs"} <= set(report["reasons"][0])
    for seam in report["seams"]:
        assert seam["thread_rule"][0] < seam["thread_rule"][1]
        for name in seam["pieces"]:
            piece = next(p for p in report["pieces"] if p["name"] == name)
            on = [e for e in seam["edges"] if any(h["seam"] == seam["name"] and h["edge"] == e for h in piece["holes"])]
            for edge in on:
                mine = [h for h in piece["holes"] if h["seam"] == seam["name"] and h["edge"] == edge]
                assert len(mine) == seam["count"]
    settled = report["job"]["settings"]
    assert settled["hand"] == "left"
    assert settled["leather.thickness"] == 3.0
    assert isinstance(settled["welt.layers"], int | float)


def test_the_page_text_can_be_searched(written: tuple[str, Path]) -> None:
    with pdfplumber.open(io.BytesIO((written[1] / "pattern.pdf").read_bytes())) as pdf:
        text = "\n".join(page.extract_text() for page in pdf.pages)
    for words in ("Eaves blade", "grain side up", "left hand", "Body · cut 1"):
        assert words in text


@pytest.mark.parametrize("name", ["spar-hook", "shears", "whetstone"])
def test_every_construction_is_written_whole(name: str, tmp_path: Path) -> None:
    job = case(name)
    made = draft(job)
    pattern.write(job, tmp_path)
    report = json.loads((tmp_path / "report.json").read_text())
    svg, drawing = (tmp_path / "pattern.svg").read_text(), ezdxf.readfile(tmp_path / "pattern.dxf")
    with pdfplumber.open(tmp_path / "pattern.pdf") as pdf:
        assert len(pdf.pages) <= len(made.pieces) + 3
    assert not drawing.audit().errors
    assert [p["name"] for p in report["pieces"]] == [p.name for p in made.pieces]
    for piece in report["pieces"]:
        plain = piece["name"].replace(" ", "-")
        assert f'id="{plain}-cut"' in svg
        layer = plain.replace("-", "_").upper()
        (outline,) = drawing.modelspace().query(f"LWPOLYLINE[layer=='{layer}_CUT']")
        assert Polygon(outline.get_points("xy")).area == pytest.approx(piece["area"], rel=1e-3)
    counts = {(h["seam"], h["edge"]): 0 for p in report["pieces"] for h in p["holes"]}
    for piece in report["pieces"]:
        for hole in piece["holes"]:
            counts[hole["seam"], hole["edge"]] += 1
    seams = {seam["name"]: seam for seam in report["seams"]}
    assert {seam for seam, _ in counts} == set(seams)
    assert all(count == seams[seam]["count"] for (seam, _), count in counts.items())
    for name, seam in seams.items():
        holed = {p["name"] for p in report["pieces"] if any(h["seam"] == name for h in p["holes"])}
        assert set(seam["pieces"]) == holed
    if job.settings.word("mould.method") != "taut":
        assert "cut before moulding" in svg
        assert {"mould.valley", "mould.stretch", "mould.margin"} <= {r["name"] for r in report["reasons"]}
    card = mocked(job, made, "card")
    assert draft(card).shell.leather.thickness == pytest.approx(0.4)


@pytest.mark.parametrize("name", CASES)
def test_the_marking_strip_carries_every_hole_in_its_place(name: str, tmp_path: Path) -> None:
    made = draft(case(name))
    strips = marking_strips(made)
    at: list[float] = []
    for strip in strips:
        run = np.sort(np.array([h.y for h in strip.holes]))[::-1]
        assert np.ptp(run) < 240  # on one page
        assert Polygon(strip.cut).contains(MultiPoint([(h.x, h.y) for h in strip.holes]))
        at += list((at[-1] if at else 0.0) + run[0] - run[1 if at else 0 :])
    wanted = made.front.holes.at - made.front.holes.at[0]
    assert at == pytest.approx(wanted[: len(at)], abs=1e-9)
    assert len(at) >= made.seams[0].count
    pattern.write(case(name), tmp_path)
    with pdfplumber.open(tmp_path / "marking-strip.pdf") as pdf:
        assert "marking strip" in pdf.pages[0].extract_text()
        (page, *_) = pdf.pages
        assert len(page.curves) > 20


def test_what_is_built_of_flat_panels_is_written_too(tmp_path: Path) -> None:
    """Every file of a box and of a tray, which has no seam to mark."""
    for name in ("laser-level", "peg-tray"):
        folder = tmp_path / name
        pattern.write(demo.job(name), folder)
        made = draft(demo.job(name))
        drawing = ezdxf.readfile(folder / "pattern.dxf")
        assert not drawing.audit().errors
        for piece in made.pieces:
            layer = piece.name.replace(" ", "_").upper()
            rings = drawing.modelspace().query(f"LWPOLYLINE[layer=='{layer}_CUT']")
            outline, *slots = sorted((Polygon(r.get_points("xy")) for r in rings), key=lambda r: -r.area)
            assert len(slots) == len(piece.openings)
            assert outline.area - sum(slot.area for slot in slots) == pytest.approx(piece.area, rel=1e-3)
        assert (folder / "marking-strip.pdf").exists() == bool(made.seams)
    strip, made = marking_strips(draft(demo.job("laser-level"))), draft(demo.job("laser-level"))
    longest = max(made.seams, key=lambda seam: seam.length)
    assert sum(len(s.holes) for s in strip) - (len(strip) - 1) == longest.count
