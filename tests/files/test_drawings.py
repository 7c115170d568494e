"""Pictures and letters from other hands: at true size whatever wrote them, and refused in one sentence."""

from __future__ import annotations

from pathlib import Path

import cv2
import ezdxf
import numpy as np
import pytest
from PIL import Image
from reportlab.pdfbase import pdfmetrics

from tailor import demo
from tailor.core.carried.loft import Array
from tailor.core.draft.tooled.asked import Line
from tailor.core.errors import InputError
from tailor.core.job import draft
from tailor.files import drawings, faces, letters, svg, tracing
from tailor.files.sheet import lay

SQUARE = "M0 0 H{n} V{n} H0 Z"  # 20 mm a side, however it is told
WAYS = {
    "mm and a box": ('width="40mm" height="40mm" viewBox="0 0 40 40"', SQUARE.format(n=20)),
    "a finer box": ('width="40mm" height="40mm" viewBox="0 0 4000 4000"', SQUARE.format(n=2000)),
    "inches": ('width="2in" height="2in" viewBox="0 0 144 144"', SQUARE.format(n=56.6929)),
    "css pixels": ('width="200" height="200"', SQUARE.format(n=75.5906)),
    "pixels and a box": ('width="200px" height="200px" viewBox="0 0 100 100"', SQUARE.format(n=37.7953)),
    "groups that move it": (
        'width="40mm" height="40mm" viewBox="0 0 40 40"',
        None,
    ),
}


def size(lines: tuple[Line, ...]) -> Array:
    every = np.vstack([line.array for line in lines])
    return np.asarray(np.ptp(every, axis=0))


@pytest.mark.parametrize("way", WAYS)
def test_svg_comes_in_at_true_size_however_it_tells_it(way: str, tmp_path: Path) -> None:
    head, path = WAYS[way]
    body = f'<path d="{path}"/>'
    if path is None:
        inner = f'<g transform="translate(3 4) rotate(90)"><path d="{SQUARE.format(n=10)}"/></g>'
        body = f'<g transform="scale(2)">{inner}</g>'
    (tmp_path / "a.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{body}</svg>')
    found = drawings.read(tmp_path / "a.svg")
    assert size(found) == pytest.approx([20.0, 20.0], abs=0.01)
    assert [line.closed for line in found] == [True]


def test_what_is_written_comes_in_again(tmp_path: Path) -> None:
    made = draft(demo.job("eaves-blade"))
    marks = [rule.points for rule in made.piece("body").rules if rule.kind == "mark"]
    sheet = lay(tracing.pieces(made))
    (tmp_path / "a.svg").write_text(svg.to_text(sheet, "sheath"))
    found = drawings.read(tmp_path / "a.svg")
    spans = sorted(tuple(np.round(np.ptp(line.array, axis=0), 1)) for line in found)
    for mark in marks:
        span = np.ptp(mark, axis=0)
        assert min(np.hypot(*(np.array(other) - span)) for other in spans) < 0.2


def test_dxf_comes_in_in_its_own_unit_open_lines_and_all(tmp_path: Path) -> None:
    for unit, mm in ((ezdxf.units.MM, 1.0), (ezdxf.units.IN, 25.4), (0, 1.0)):
        document = ezdxf.new()
        document.units = unit
        document.modelspace().add_line((0, 0), (2, 0))
        document.modelspace().add_circle((5, 5), 1)
        document.saveas(tmp_path / "a.dxf")
        found = sorted(drawings.read(tmp_path / "a.dxf"), key=lambda line: line.closed)
        assert [line.closed for line in found] == [False, True]
        assert size(found[:1])[0] == pytest.approx(2 * mm)
        assert size(found[1:]) == pytest.approx([2 * mm, 2 * mm], rel=0.01)


def scan(path: Path, dpi: int, thick: int) -> None:
    """A ring of 40 mm and a line of 60 mm beside it, drawn with a pen."""
    px = dpi / 25.4
    page = np.full((round(70 * px), round(120 * px)), 245, np.uint8)
    cv2.circle(page, (round(30 * px), round(30 * px)), round(20 * px), 30, thick, cv2.LINE_AA)
    cv2.line(page, (round(55 * px), round(10 * px)), (round(115 * px), round(10 * px)), 30, thick, cv2.LINE_AA)
    noise = np.random.default_rng(1).normal(0, 6, page.shape)
    Image.fromarray(np.clip(page + noise, 0, 255).astype(np.uint8)).save(path, dpi=(dpi, dpi))


@pytest.mark.parametrize(("dpi", "thick"), [(150, 4), (300, 9), (600, 14)])
def test_a_scan_is_traced_along_the_middle_of_its_strokes(dpi: int, thick: int, tmp_path: Path) -> None:
    scan(tmp_path / "a.png", dpi, thick)
    ring, line = sorted(drawings.read(tmp_path / "a.png"), key=lambda found: not found.closed)
    assert ring.closed
    assert not line.closed
    assert size((ring,)) == pytest.approx([40.0, 40.0], abs=0.4)
    assert size((line,))[0] == pytest.approx(60.0, abs=1.5)
    middle = (ring.array[:, 1].min() + ring.array[:, 1].max()) / 2
    assert line.array[:, 1].mean() - middle == pytest.approx(20.0, abs=0.5)  # above it, as drawn
    radii = np.hypot(*(ring.array - (ring.array.min(axis=0) + ring.array.max(axis=0)) / 2).T)
    assert radii == pytest.approx(20.0, abs=0.35)


def test_what_is_filled_is_traced_round(tmp_path: Path) -> None:
    page = np.full((600, 600), 250, np.uint8)
    cv2.fillPoly(page, [np.array([(100, 100), (500, 100), (300, 450)])], 20)
    Image.fromarray(page).save(tmp_path / "a.png", dpi=(254, 254))
    (found,) = drawings.read(tmp_path / "a.png")
    assert found.closed
    assert size((found,)) == pytest.approx([40.0, 35.0], abs=0.3)


@pytest.mark.parametrize("face", letters.SHIPPED)
def test_letters_stand_as_wide_as_the_face_sets_them(face: str) -> None:
    faces.put_up()
    drawn = letters.lettered("HnoH", face)
    assert len(drawn) == 5  # the o has an inside
    named = {"Vollkorn": faces.HEAD, "Carlito": faces.TEXT}.get(face)
    every = np.vstack([line.array for line in drawn])
    assert all(line.closed for line in drawn)
    if named is not None:
        across = pdfmetrics.stringWidth("HnoH", named, letters.HIGH)
        assert across - np.ptp(every[:, 0]) == pytest.approx(2 * every[:, 0].min(), abs=0.4)  # but for its two sides
    assert 10 < every[:, 1].max() < 16


def test_what_is_no_picture_is_refused_in_one_sentence(tmp_path: Path) -> None:
    Image.fromarray(np.full((200, 200), 250, np.uint8)).save(tmp_path / "empty.png")
    (tmp_path / "words.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"><text>hello</text></svg>')
    (tmp_path / "a.stl").write_text("solid")
    many = " ".join(f"M{k} 0 v9" for k in range(5000))
    (tmp_path / "many.svg").write_text(f'<svg xmlns="http://www.w3.org/2000/svg"><path d="{many}"/></svg>')
    for name, said in (("empty.png", "no drawing stands out"), ("words.svg", "words into their outlines"),
                       ("a.stl", "no picture"), ("many.svg", "5000 lines")):  # fmt: skip
        with pytest.raises(InputError, match=said):
            drawings.read(tmp_path / name)
    wrong = [("私", "Carlito", "no letter"), ("A", "No Such Face", "no face"), ("  ", "Carlito", "name")]
    for words, face, said in [*wrong, ("A" * 61, "Carlito", "61 letters")]:
        with pytest.raises(InputError, match=said):
            letters.lettered(words, face)
