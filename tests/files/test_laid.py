"""Problems of laying out, hides as they are named, and layouts as files."""

from __future__ import annotations

import copy
import json
import re
from xml.etree import ElementTree as ET

import numpy as np
import pdfplumber
import pytest
import shapely

from tailor import cli, demo
from tailor.core.cut import layer
from tailor.core.errors import InputError
from tailor.files import hides, job_file, laid, laid_sheet

SQUARE = [[0, 0], [100, 0], [100, 60], [0, 60]]
ASKED = {
    "format": "tailor-layout-problem/1",
    "sheets": [
        {"id": 7, "outline": [[0, 0], [500, 0], [500, 400], [0, 400]],
         "forbidden": [[[200, 200], [220, 200], [210, 230]]],
         "zones": [{"name": "belly", "grade": "loose", "polygon": [[0, 0], [500, 0], [500, 100], [0, 100]]}]},
    ],
    "pieces": [
        {"id": n, "name": f"piece {n}", "polygon": SQUARE, "rotation": {"bases_deg": [0], "plus_minus_deg": 5},
         "wanted": "not_loose"} for n in range(5)
    ] + [{"id": "long", "polygon": [[0, 0], [600, 0], [600, 30], [0, 30]]}],
}  # fmt: skip


def written(tmp_path, content):
    (path := tmp_path / "asked.json").write_text(json.dumps(content))
    return path


def run(*words: object) -> int:
    return cli.main([str(word) for word in words])


def test_a_problem_is_laid_and_its_answer_says_where(tmp_path, capsys):
    assert run("lay", "--problem", written(tmp_path, ASKED), "-o", tmp_path / "out.json", "--json") == 0
    answer = json.loads((tmp_path / "out.json").read_text())
    assert json.loads(capsys.readouterr().out) == answer
    assert answer["format"] == "tailor-layout/1"
    assert {one["id"] for one in answer["placed"]} == set(range(5))
    for one in answer["placed"]:
        turn = np.radians(one["rotate_deg"])
        flat = np.array(SQUARE) * ([1, -1] if one["mirror"] else [1, 1])
        ring = flat @ np.array([[np.cos(turn), np.sin(turn)], [-np.sin(turn), np.cos(turn)]]) + one["move"]
        assert one["sheet"] == 7
        assert ring[:, 0].min() >= 0
        assert ring[:, 0].max() <= 500
        assert ring[:, 1].min() >= 100
        assert ring[:, 1].max() <= 400
    (left,) = answer["left"]
    assert left["id"] == "long"
    assert "at most 500 × 400" in left["why"]
    (rest,) = answer["rests"]
    assert rest["used"] == pytest.approx(5 * 6000 / (500 * 400 - 300), abs=1e-3)


def _spoilt(change):
    asked = copy.deepcopy(ASKED)
    change(asked)
    return asked


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (lambda a: a.update(format="other"), "tailor-layout-problem/1"),
        (lambda a: a.pop("sheets"), "sheets"),
        (lambda a: a["pieces"][2].update(polygon=[[0, 0], [1, 1]]), "pieces.3.polygon"),
        (lambda a: a["pieces"][2].update(polygon=[[0, 0], [10, 10], [10, 0], [0, 10]]), "piece 2"),
        (lambda a: a["pieces"][2].update(polygon=[[0, 0], [1e9, 10], [10, 0]]), "pieces.3.polygon"),
        (lambda a: a["pieces"][2].update(id=1), "two are called 1"),
        (lambda a: a["pieces"][2].update(wanted="best"), "pieces.3.wanted"),
        (lambda a: a["pieces"][2].update(pinned={"sheet": "S9", "move": [0, 0]}), "S9"),
        (lambda a: a["sheets"].append({"id": 8, "outline": [[9e4, 9e4], [91e3, 9e4], [91e3, 91e3]]}), "apart"),
    ],
)  # fmt: skip
def test_a_problem_that_cannot_be_is_refused_where_it_is_wrong(tmp_path, change, said):
    with pytest.raises(InputError) as refused:
        laid.problem(written(tmp_path, _spoilt(change)))
    assert said in str(refused.value)
    assert "asked.json" in str(refused.value)


def test_what_cannot_be_asked_is_told_by_the_status(tmp_path, capsys):
    job = tmp_path / "b.tailor"
    job_file.save(demo.job("peg-tray"), job)
    for words, status, said in (
        (("lay", "-o", tmp_path / "x.json"), 2, "no job is given"),
        (("lay", job, "-o", tmp_path / "x.json"), 2, "no leather is given"),
        (("lay", job, "--on", "wide", "-o", tmp_path / "x.json"), 2, "wide"),
        (("lay", job, "--on", "0x300mm", "-o", tmp_path / "x.json"), 2, "no size of leather"),
        (("lay", f"{job}=0", "--on", "700x700mm", "-o", tmp_path / "x.json"), 2, "0 of it"),
        (("lay", job, "--on", "700x700mm", "-o", tmp_path / "x.doc"), 2, ".doc"),
        (("lay", job, "--on", "700x700mm", "-o", "/proc/none/x.json"), 3, "/proc/none"),
        (("lay", tmp_path / "none.tailor", "--on", "7x7in", "-o", tmp_path / "x.json"), 3, "no such file"),
    ):
        assert run(*words) == status, words
        assert said in capsys.readouterr().err
    with pytest.raises(SystemExit) as ended:
        run("lay", job, "--on", "700x700mm", "-o", tmp_path / "x.json", "--seconds", "nan")
    assert ended.value.code == 2


def test_jobs_are_laid_on_an_offcut_and_a_drawn_hide_and_read_back(tmp_path, capsys):
    job, hide = tmp_path / "tray.tailor", tmp_path / "hide.svg"
    job_file.save(demo.job("eaves-blade"), job)
    hide.write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="900mm" height="700mm" viewBox="0 0 900 700">'
        '<path d="M0 0 L900 0 L850 700 L0 650 Z"/><path d="M300 300 L340 300 L320 340 Z"/></svg>'
    )
    assert run("lay", f"{job}=3", "--on", "360x300mm", "--on", hide, "-o", tmp_path / "out") == 0
    told = json.loads((tmp_path / "out" / "layout.json").read_text())
    assert not told["left"]
    assert {one["sheet"] for one in told["placed"]} == {"360x300mm", "hide"}
    assert len(told["placed"]) == 6
    root = ET.fromstring((tmp_path / "out" / "layout.svg").read_text())
    space = {"s": "http://www.w3.org/2000/svg"}
    pieces = [g for g in root.findall("s:g/s:g", space) if g.find("s:title", space) is not None]
    (body,) = (g for g in pieces if g.find("s:title", space).text.endswith("/body"))
    numbers = np.array(re.findall(r"-?[\d.]+", body.find("s:path", space).get("d")), dtype=float).reshape(-1, 2)
    made = next(p for p in _drafted(job) if p.name == "body")
    assert shapely.Polygon(numbers).area == pytest.approx(shapely.Polygon(made.cut).area, rel=1e-4)
    with pdfplumber.open(tmp_path / "out" / "layout.pdf") as read:
        pages = [page.extract_text() for page in read.pages]
    assert "360x300mm" in pages[0]
    assert "hide" in pages[1]
    assert all(one["id"] in pages[2] for one in told["placed"])


def _drafted(path):
    from tailor.core.job import draft

    return draft(job_file.load(path)).pieces


def test_hides_stand_apart_in_the_order_they_are_used(tmp_path, monkeypatch):
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path))
    row = hides.hides(["10x8in", "10x8in", "300x200mm"])
    assert [hide.priority for hide in row] == [0, 1, 2]
    assert len({hide.id for hide in row}) == 3
    shapes = [shapely.Polygon(hide.ring) for hide in row]
    assert shapes[0].area == pytest.approx(254 * 203.2)
    assert min(shapes[0].distance(shapes[1]), shapes[1].distance(shapes[2])) > 50
    assert hides.remembered() == hides.USUAL
    hides.remember(["10x8in"])
    assert hides.remembered() == ("10x8in",)
    (tmp_path / "tailor" / hides.KEPT).write_text('{"no": 3}')
    assert hides.remembered() == hides.USUAL


def test_a_layout_is_the_same_however_it_is_written(tmp_path):
    laying = laid.problem(written(tmp_path, ASKED))
    found = layer.laid_out(laying, 0, seconds=None, steps=3)
    for kind in laid_sheet.SUFFIXES:
        (path,) = laid_sheet.write(laying, found, tmp_path / f"one{kind}")
        again = path.read_bytes()
        laid_sheet.write(laying, found, path)
        assert path.read_bytes() == again


def test_what_is_drawn_beside_a_hide_is_no_hole_in_it(tmp_path):
    (drawn := tmp_path / "two.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="500mm" height="200mm" viewBox="0 0 500 200">'
        '<path d="M0 0 L300 0 L300 200 L0 200 Z"/><path d="M50 50 L90 50 L70 90 Z"/>'
        '<path d="M400 0 L490 0 L490 90 Z"/></svg>'
    )
    hide = hides.named(str(drawn))
    assert hide.whole.area == pytest.approx(300 * 200 - 40 * 40 / 2, abs=1)  # lines are followed within 0.02 mm
    assert len(hide.forbidden) == 1


def test_the_same_seed_and_steps_write_the_same_file(tmp_path):
    crowd = copy.deepcopy(ASKED)
    crowd["pieces"] = [
        {"id": n, "polygon": SQUARE, "rotation": {"bases_deg": [0], "plus_minus_deg": 20}} for n in range(24)
    ]
    asked, files = written(tmp_path, crowd), [tmp_path / f"{n}.json" for n in range(3)]
    for file, seed in zip(files, (4, 4, -5), strict=True):
        assert run("lay", "--problem", asked, "-o", file, "--seed", seed, "--steps", 40, "--seconds", 60) == 0
    one, again, other = (json.loads(file.read_text()) for file in files)
    assert one == again
    assert len(other["placed"]) >= 20
    assert 0.6 < one["share"] < 1  # there is room for 26 of them, were none of it forbidden


@pytest.mark.parametrize(
    ("text", "area"),
    [("side 2.1 m²", 2.1), ("SHOULDER 0,85m2", 0.85), ("belly 9 ft²", 0.836127), ("back 12 sq ft", 1.114836),
     ("side 1.5", 1.5), ("400x250mm", 0.1), ("10x8in", 0.0516128)],
)  # fmt: skip
def test_leather_is_named_by_its_shape_and_area_or_its_sizes(text: str, area: float) -> None:
    assert hides.named(text).whole.area / 1e6 == pytest.approx(area, abs=1e-6)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("side 90 m²", "no hide"),
        ("tail 2 m²", "tail 2 m"),
        ("0x20mm", "no size"),
        ("a wide one", "give a size"),
        ("1300.5 by 7", "give a size"),
        ("none.svg", "no such file"),
    ],
)
def test_what_is_no_leather_is_told(text: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        hides.named(text)
