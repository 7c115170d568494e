"""The command line as scripts use it."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from tailor.cli import main
from tailor.core.settings import KEYS


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str, str]:
    try:
        status = main([str(w) for w in words])
    except SystemExit as stop:
        status = int(stop.code or 0)
    out, err = capsys.readouterr()
    return status, out, err


@pytest.fixture
def folder(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> Path:
    assert run(capsys, "demo-data", tmp_path / "demo")[0] == 0
    return tmp_path / "demo"


def test_from_measurements_to_pattern(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = folder / "mine.tailor"
    table = folder / "eaves-blade.csv"
    new = ("new", job, "--style", "folded-sheath", "--stations", table)
    assert run(capsys, *new, "--name", "Mine", "--set", "leather.thickness=7-8 oz", "seam.standoff=3/8")[0] == 0
    assert run(capsys, "set", job, "seam.standoff=9mm", "belt.width=1 1/2in", "seam.pitch=6 per inch")[0] == 0
    assert run(capsys, "draft", job, "-o", folder / "out", "--paper", "letter")[0] == 0
    report = json.loads((folder / "out" / "report.json").read_text())
    assert {s["standoff"] for s in report["stations"]} == {9.0}
    assert report["job"]["settings"]["leather.thickness"] == pytest.approx(2.9765625)
    assert report["job"]["settings"]["belt.width"] == pytest.approx(38.1)
    for station in report["stations"]:
        assert station["x_stitch"] - station["x_welt"] == pytest.approx(report["job"]["settings"]["seam.stitch_inset"])
    assert {p.name for p in (folder / "out").iterdir()} == {"pattern.pdf", "pattern.svg", "pattern.dxf", "report.json"}
    assert run(capsys, "set", job, "seam.standoff=auto")[0] == 0
    assert "seam.standoff" not in json.loads(job.read_text())["settings"]


def test_check_exits_one_when_a_verdict_says_stop(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = folder / "eaves-blade.tailor"
    status, out, _ = run(capsys, "check", job)
    assert (status, "STOP" in out) == (0, False)
    run(capsys, "set", job, "mouth.y=120")
    status, out, _ = run(capsys, "check", job)
    assert (status, "STOP" in out) == (1, True)
    status, out, _ = run(capsys, "check", job, "--json")
    assert status == 1
    assert json.loads(out)[0]["verdict"] == "stop"


def test_help_lists_every_key_with_its_default(capsys: pytest.CaptureFixture[str]) -> None:
    _, out, _ = run(capsys, "new", "--help")
    for name, key in KEYS.items():
        line = next(part for part in out.splitlines() if part.split()[:1] == [name])
        assert key.meaning in line


BAD = [
    ("set JOB welt.layers=two", "welt.layers"), ("set JOB welt.layers=0", "welt.layers"), ("set JOB wings=2", "wings"),
    ("set JOB leather.thickness", "KEY=VALUE"), ("set JOB leather.thickness=", "leather.thickness"),
    ("set JOB leather.thickness=0", "leather.thickness"), ("set JOB leather.thickness=-3mm", "leather.thickness"),
    ("set JOB seam.standoff=0", "seam.standoff"), ("set JOB seam.standoff=-2", "seam.standoff"),
    ("set JOB leather.neutral=1.5", "leather.neutral"), ("set JOB leather.neutral=0.5mm", "leather.neutral"),
    ("set JOB hand=both", "hand"), ("set JOB seam.pitch=0/in", "stitch"), ("set JOB fit.approach=95", "fit.approach"),
    ("set JOB belt.width=9999", "belt.width"), ("set absent.tailor hand=left", "absent.tailor"),
    ("set CSV hand=left", "eaves-blade.csv"), ("draft JOB -o JOB", "eaves-blade.tailor"),
    ("draft JOB -o OUT --paper a5", "--paper"), ("draft", "JOB.tailor"), ("check absent.tailor", "absent.tailor"),
    ("new OUT --style boot --stations CSV", "boot"),
    ("new OUT --style folded-sheath --stations absent.csv", "absent.csv"),
    ("new OUT --style folded-sheath --stations JOB", "eaves-blade.tailor"),
    ("new OUT", "--style"), ("sew JOB", "sew"),
    ("new absent/OUT --style folded-sheath --stations CSV", "cannot be written"),
    ("demo-data JOB", "cannot be made"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "said"), BAD)
def test_bad_input_exits_two_with_one_sentence(
    words: str, said: str, folder: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    put = {"JOB": "eaves-blade.tailor", "CSV": "eaves-blade.csv", "OUT": "out.tailor"}
    before = (folder / "eaves-blade.tailor").read_bytes()
    status, out, err = run(capsys, *(put.get(w, w) for w in words.split()))
    assert status == 2
    assert said in err
    assert err.count("\n") == 1
    assert "Traceback" not in err
    assert not out
    assert (folder / "eaves-blade.tailor").read_bytes() == before


@pytest.mark.parametrize("key", ["mouth.y=400", "loop.width=170", "seam.fold_hole=60"])
def test_a_job_that_cannot_be_drafted_says_why(key: str, folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = folder / "eaves-blade.tailor"
    assert run(capsys, "set", job, key)[0] == 0
    for words in (("draft", job, "-o", folder / "o"), ("check", job)):
        status, _, err = run(capsys, *words)
        assert status == 2
        assert key.split("=")[0] in err
        assert err.count("\n") == 1
