"""`tailor tool`, and what is tooled in all that is given out: pattern, report, steps and quote."""

from __future__ import annotations

import json
import re
from pathlib import Path

import ezdxf
import numpy as np
import pdfplumber
import pytest

from tailor.cli import main
from tailor.core.draft.tooled.asked import Tooling
from tailor.files import job_file

LEAF = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="40mm" height="40mm" viewBox="0 0 40 40">'
    '<path d="M2 20 C 12 4 28 4 38 20 C 28 36 12 36 2 20 Z"/><path d="M2 20 H38"/></svg>'
)


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str, str]:
    try:
        status = main([str(word) for word in words])
    except SystemExit as stop:
        status = int(stop.code or 0)
    said = capsys.readouterr()
    return status, said.out, said.err


@pytest.fixture
def crew(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Path:
    assert run(capsys, "demo-data", tmp_path)[0] == 0
    (tmp_path / "leaf.svg").write_text(LEAF)
    return tmp_path


def test_it_is_put_on_listed_changed_and_taken_off(crew: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = crew / "kit-bag.tailor"
    assert run(capsys, "tool", job) == (0, "", "")
    assert run(capsys, "tool", job, "--fill", "weave", "--on", "left cap")[0] == 0
    status, out, _ = run(capsys, "tool", job, "--picture", crew / "leaf.svg", "--on", "body,back")
    assert status == 0
    assert re.fullmatch(
        r"1\. field on the left cap · left cap, left\n2\. picture leaf · body, back, [\d.]+ mm wide\n", out
    )
    assert run(capsys, "set", job, "tooling.2.width=25mm", "tooling.1.along=10mm")[0] == 0
    told = json.loads(run(capsys, "tool", job, "--json")[1])
    assert told[1]["width"] == pytest.approx(25.0)
    assert told[0]["repeats"]["step"] == pytest.approx(10.0, rel=0.03)
    saved = job_file.load(job).tooling
    assert isinstance(saved[0], Tooling)
    assert saved[0].along == 10.0
    assert run(capsys, "tool", job, "--letters", "SPARS", "--face", "Carlito", "--on", "right cap")[0] == 0
    assert run(capsys, "tool", job, "--off", "1")[1].startswith("1. picture leaf")
    assert len(job_file.load(job).tooling) == 2


def test_wrong_words_change_nothing_and_are_told_in_one_sentence(
    crew: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    job = crew / "eaves-blade.tailor"
    before = job.read_bytes()
    (crew / "empty.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg"/>')
    for words, status, said in (
        (("tool", job, "--off", "9"), 2, "give 1 to 2"), (("tool", job, "--fill", "grass"), 2, "fills nothing"),
        (("tool", job, "--border", "7"), 2, "above the most"),
        (("tool", job, "--picture", crew / "no.svg"), 3, "no such"),
        (("tool", job, "--mark", crew / "empty.svg"), 2, "empty.svg"),
        (("tool", job, "--letters", "A", "--face", "Nothing"), 2, "no face"),
        (("set", job, "tooling.7.width=3mm"), 2, "tooling.1 to tooling.2"),
        (("set", job, "tooling.2.width=2000mm"), 2, "above the most"),
        (("tool", crew / "radio.tailor", "--tracing", crew / "t.pdf"), 2, "nothing is tooled"),
    ):  # fmt: skip
        found = run(capsys, *words)
        assert found[0] == status
        assert said in found[2]
        assert len(found[2].splitlines()) == 1
    assert job.read_bytes() == before
    assert not (crew / "t.pdf").exists()


def test_where_there_is_no_such_place_the_ledger_stops(crew: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = crew / "whetstone.tailor"
    status, out, _ = run(capsys, "tool", job, "--border", "1", "--on", "lid")
    assert (status, out) == (0, "1. field on the lid · lid, no field there\n")
    status, out, _ = run(capsys, "check", job)
    assert status == 1
    assert "There is no lid here to tool: put it on front or back." in out
    assert run(capsys, "set", job, "tooling.1.piece=front")[0] == 0
    assert run(capsys, "check", job)[0] == 0


def test_it_lies_on_layers_of_its_own_at_true_size_in_every_file(
    crew: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    assert run(capsys, "draft", crew / "eaves-blade.tailor", "-o", crew / "out")[0] == 0
    report = json.loads((crew / "out" / "report.json").read_text())
    field, mark = report["tooling"]
    assert (field["side"], mark["side"]) == ("front", "front")
    body = report["pieces"][0]
    lines = [np.array(line["points"]) for line in body["tooled"] if line["kind"] == "mark"]
    assert np.ptp(np.vstack(lines)[:, 0]) == pytest.approx(17.0, abs=0.05)
    drawing = ezdxf.readfile(crew / "out" / "pattern.dxf").modelspace()
    assert len(drawing.query("LWPOLYLINE[layer=='BODY_MARK']")) == len(lines) == 12
    assert len(drawing.query("LWPOLYLINE[layer=='BODY_BORDER']")) == 1
    svg = (crew / "out" / "pattern.svg").read_text()
    group = svg.split('id="body-mark"')[1].split("</g>")[0]
    assert group.count("<path") == 12
    assert 'id="body-border"' in svg
    assert {"tracing.pdf"} < set(report["files"])
    with pdfplumber.open(crew / "out" / "tracing.pdf") as sheet:
        text = "".join(page.extract_text() for page in sheet.pages)
        holes = [
            c for page in sheet.pages for c in page.curves if abs(c["width"] - c["height"]) < 0.01 and c["width"] < 9
        ]
    assert "Body · to trace" in text
    assert "Welt" not in text  # on which nothing is tooled
    assert holes == []
    assert run(capsys, "draft", crew / "radio.tailor", "-o", crew / "plain")[0] == 0
    assert not (crew / "plain" / "tracing.pdf").exists()


def test_its_work_is_in_the_quote(crew: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = crew / "site-book.tailor"
    hours = []
    for off in (False, True):
        if off:
            assert run(capsys, "tool", job, "--off", "1")[0] == 0
        quoted = json.loads(run(capsys, "quote", job, "--json")[1])
        hours.append(sum(item["amount"] for item in quoted["items"] if item["unit"] == "h"))
    assert 60 * (hours[0] - hours[1]) == pytest.approx(
        0.05 * 568 + 3.0 + 8.0 * 0.6, rel=0.12
    )  # stamps, laying out, border
