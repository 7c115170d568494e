"""What a maker has made his own, in his folder and in the jobs he begins; and pictures kept beside the shop book."""

from __future__ import annotations

import json
import os
from dataclasses import replace
from datetime import date, datetime
from pathlib import Path

import pytest
from PIL import Image

from tailor import demo
from tailor.cli import main
from tailor.core.errors import DiskError, InputError
from tailor.core.job import draft
from tailor.core.taken import NEAR, Taken, nearest
from tailor.demo.shop import shop as of_the_demo
from tailor.files import job_file, makers, taken
from tailor.files.shop_book import pictures
from tailor.files.shop_book.book import Book

ONE = Taken("leather.neutral", 0.44, 0.015, 5, 0.5, "firm side, 3 mm", 3.0, "firm")
ANY = Taken("leather.neutral", 0.47, 0.03, 9, 0.5)
SNUG = Taken("fit.clearance", 0.9, 0.1, 6, 0.5, thing="folded-sheath")


@pytest.fixture
def own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    monkeypatch.setattr(makers, "folder", lambda: tmp_path / "config")
    return tmp_path / "config" / makers.LEARNED


def test_what_is_taken_lies_in_the_makers_folder_there_and_back(own: Path) -> None:
    makers.keep_taken((ONE, SNUG))
    maker, told = makers.load()
    assert (maker.taken, told) == ((ONE, SNUG), ())
    makers.keep_taken(())
    assert makers.load()[0].taken == ()


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("{", "damaged"),
        ('{"format": "tailor-beliefs/1", "learned": []}', "tailor-learned/1"),
        ('{"format": "tailor-learned/1", "learned": [{"constant": "leather.neutral"}]}', "learned.1.value"),
        ('{"format": "tailor-learned/1", "learned": [{"constant": "x", "value": 1e999, "sd": 0, "cases": 1, '
         '"table": 1}]}', "finite"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_used_keeps_the_bench_open(own: Path, text: str, said: str) -> None:
    own.parent.mkdir()
    own.write_text(text)
    maker, told = makers.load()
    assert maker.taken == ()
    assert said in told[0]
    assert "Until then the tables are gone by." in told[0]
    with pytest.raises(InputError):
        taken.read(own)


@pytest.mark.parametrize(
    ("constant", "value", "said"),
    [
        ("leather.thickness", 3.0, "holds for each job by itself"),  # by it is known what holds
        ("stitch.method", 3.0, "it is no number"),
        ("leather.colour", 1.0, "there is no measure 'leather.colour'"),
        ("leather.neutral", 7.0, "leather.neutral"),
    ],
)
def test_what_drafts_could_not_go_by_is_refused_where_it_is_read(
    own: Path, constant: str, value: float, said: str
) -> None:
    own.parent.mkdir()
    one = {"constant": constant, "value": value, "sd": 0.0, "cases": 1, "table": 1.0}
    own.write_text(json.dumps({"format": taken.FORMAT, "learned": [one]}))
    maker, told = makers.load()
    assert maker.taken == ()
    assert said in told[0]
    job = json.loads(job_file.to_text(demo.job())) | {"version": 4, "learned": [one]}
    with pytest.raises(InputError):
        job_file.from_text(json.dumps(job))


def test_a_folder_that_cannot_be_written_is_said(own: Path) -> None:
    own.parent.write_text("a file in its way")
    with pytest.raises(DiskError, match="cannot be written"):
        makers.keep_taken((ONE,))


def test_new_jobs_are_begun_by_what_is_taken_on_the_command_line_too(
    own: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    table, old, new = tmp_path / "blade.csv", tmp_path / "old.tailor", tmp_path / "new.tailor"
    table.write_text(demo.measurements("eaves-blade"))
    words = ["--style", "folded-sheath", "--stations", str(table)]
    assert main(["new", str(old), *words]) == 0
    assert json.loads(old.read_text())["version"] == 3  # which any Tailor of that version reads
    before = old.read_bytes()
    makers.keep_taken((ONE, SNUG))
    assert main(["new", str(new), *words]) == 0
    plain = json.loads(new.read_text())
    assert (plain["version"], len(plain["learned"])) == (4, 2)
    job = job_file.load(new)
    assert (job.settings.number("leather.neutral"), job.settings.number("fit.clearance")) == (0.44, 0.9)
    assert main(["set", str(old), "welt.proud=2mm"]) == 0
    assert "learned" not in json.loads(old.read_text())
    assert job_file.load(old).settings.number("leather.neutral") == 0.5
    assert main(["set", str(old), "welt.proud=auto"]) == 0
    assert old.read_bytes() == before
    makers.keep_taken(())
    assert job_file.load(new) == job  # let go, what was begun by it stays as it is
    assert main(["set", str(new), "leather.neutral=0.48"]) == 0
    assert job_file.load(new).settings.number("leather.neutral") == 0.48  # what is pinned goes before
    assert main(["check", str(new)]) in (0, 1)
    assert "Traceback" not in capsys.readouterr().err


def test_of_several_the_nearest_leather_counts_and_what_holds_for_any_comes_last() -> None:
    thin = replace(ONE, value=0.46, leather="shoulder", thickness=2.7)
    all_ = (ANY, ONE, thin, SNUG)

    def found(thickness: float, temper: str = "firm", thing: str = "mask") -> Taken | None:
        return nearest(all_, "leather.neutral", thickness, temper, "taut", thing)

    assert found(3.0) is ONE
    assert found(2.6) is thin
    assert found(3.0 + NEAR + 0.01) is ANY
    assert found(3.0, "soft") is ANY
    assert nearest((SNUG,), "fit.clearance", 3.0, "firm", "taut", "mask") is None
    assert nearest((SNUG,), "fit.clearance", 3.0, "firm", "taut", "folded-sheath") is SNUG
    bone = Taken("mould.stretch", 0.01, 0.001, 8, 0.02, method="bone")
    assert nearest((bone,), "mould.stretch", 2.0, "firm", "fingers", "two-panel") is None


def test_another_construction_goes_by_what_was_learned_of_it() -> None:
    job = replace(demo.job("eaves-blade"), settings=replace(demo.job("eaves-blade").settings, taken=(SNUG,)))
    assert job.settings.number("fit.clearance") == 0.9
    assert replace(job, style="two-panel").settings.number("fit.clearance") == 0.5
    wide, plain = (draft(each).pieces[0].area for each in (job, demo.job("eaves-blade")))
    assert wide > plain


# Pictures


def test_a_picture_is_kept_once_whatever_it_is_called(tmp_path: Path) -> None:
    book, one, two = tmp_path / "shop.tailorshop", tmp_path / "one.png", tmp_path / "two.PNG"
    Image.new("RGB", (8, 6), "green").save(one)
    two.write_bytes(one.read_bytes())
    taken_at = datetime(2026, 5, 3, 12).timestamp()
    os.utime(one, (taken_at, taken_at))
    first, second = pictures.keep(one, book), pictures.keep(two, book)
    assert (first.name, first.taken_on) == (second.name, date(2026, 5, 3))
    assert [path.name for path in pictures.folder(book).iterdir()] == [first.name]
    assert (pictures.folder(book) / first.name).read_bytes() == one.read_bytes()


def test_what_is_no_picture_or_has_no_place_is_said(tmp_path: Path) -> None:
    book, fake = tmp_path / "shop.tailorshop", tmp_path / "fake.png"
    fake.write_text("no picture")
    with pytest.raises(InputError, match="it is no picture"):
        pictures.keep(fake, book)
    with pytest.raises(DiskError, match="no such file"):
        pictures.keep(tmp_path / "gone.png", book)
    with pytest.raises(InputError, match="a folder"):
        pictures.keep(tmp_path, book)
    Image.new("RGB", (8, 6)).save(fake, "PNG")
    pictures.folder(book).write_text("in its way")
    with pytest.raises(DiskError, match="cannot be copied"):
        pictures.keep(fake, book)


# What was changed of steps


def test_steps_that_were_changed_are_planned_from_the_command_line_too(tmp_path: Path) -> None:
    from tailor.core.bench.altered import Altered

    path = tmp_path / "shop.tailorshop"
    book = Book.open(path)
    book.lay_in("the demo", of_the_demo(date(2026, 5, 4)))
    change = Altered("fair/0/cut", name="cut with the press knife", minutes=3.0, why="it is new")
    book.put("another way", (None, change))
    assert book.shop().altered == (change,)
    out = tmp_path / "plan.json"
    words = [
        "plan",
        "--order",
        "fair",
        "--book",
        str(path),
        "--now",
        "2026-05-04T18:00",
        "-o",
        str(out),
        "--plans",
        "2",
    ]
    assert main(words) == 0
    told = json.loads(out.read_text())
    assert "cut with the press knife" in json.dumps(told)
    book.undo()
    assert book.shop().altered == ()
    assert main(words) == 0
    assert "press knife" not in out.read_text()
    assert main(["shop", "--book", str(path), "export", str(tmp_path / "out")]) == 0
    assert (tmp_path / "out" / "altered.csv").read_text().startswith("id,name,minutes,dropped,parts,after,why")
