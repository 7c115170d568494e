"""The command line as scripts use it."""

from __future__ import annotations

import json
import os
import shutil
import signal
import subprocess
import sys
from pathlib import Path

import numpy as np
import pdfplumber
import pytest

from tailor.cli import main
from tailor.core.carried.calipers import parse_line
from tailor.core.carried.photo.view import Lens, find
from tailor.core.carried.stations import read_csv
from tailor.core.keys import KEYS
from tailor.demo import captures
from tailor.files.pdf import POINT


def run(capsys: pytest.CaptureFixture[str], *words: object) -> tuple[int, str, str]:
    try:
        status = main([str(w) for w in words])
    except SystemExit as stop:
        status = int(stop.code or 0)
    out, err = capsys.readouterr()
    return status, out, err


@pytest.fixture(scope="module")
def crew(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo data, written once."""
    written = tmp_path_factory.mktemp("crew")
    assert main(["demo-data", str(written)]) == 0
    return written


@pytest.fixture
def folder(tmp_path: Path, crew: Path) -> Path:
    return Path(shutil.copytree(crew, tmp_path / "demo"))


def test_from_measurements_to_pattern(folder: Path, capsys: pytest.CaptureFixture[str]) -> None:
    job = folder / "mine.tailor"
    table = folder / "eaves-blade.csv"
    new = ("new", job, "--style", "folded-sheath", "--stations", table)
    assert run(capsys, *new, "--name", "Mine", "--set", "leather.thickness=7-8 oz", "seam.standoff=3/8")[0] == 0
    assert run(capsys, "set", job, "seam.standoff=9mm", "belt.width=1 1/2in", "seam.pitch=6 per inch")[0] == 0
    assert run(capsys, "draft", job, "-o", folder / "out", "--paper", "letter")[0] == 0
    report = json.loads((folder / "out" / "report.json").read_text())
    assert min(s["standoff"] for s in report["stations"]) == pytest.approx(9.0, abs=0.01)
    assert report["job"]["settings"]["leather.thickness"] == pytest.approx(2.9765625)
    assert report["job"]["settings"]["belt.width"] == pytest.approx(38.1)
    for station in report["stations"]:
        assert station["x_stitch"] - station["x_welt"] > report["job"]["settings"]["seam.stitch_inset"] - 0.02
    written = {"pattern.pdf", "pattern.svg", "pattern.dxf", "report.json", "marking-strip.pdf"}
    assert {p.name for p in (folder / "out").iterdir()} == written
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
    ("set JOB belt.width=9999", "belt.width"), ("set CSV hand=left", "eaves-blade.csv"),
    ("draft JOB -o OUT --paper a5", "--paper"), ("draft", "JOB.tailor"),
    ("new OUT --style boot --stations CSV", "boot"),
    ("new OUT --style folded-sheath --stations JOB", "eaves-blade.tailor"),
    ("new OUT --style folded-sheath --stations .", "it is a folder"),
    ("set JOB leather.thickness=" + 400 * "9", "leather.thickness"), ("set JOB fit.approach=" + 5000 * "1", "approach"),
    ("set JOB welt.layers=" + 400 * "9", "welt.layers"), ("set JOB " + 5000 * "9" + "=2", "no such setting"),
    ("new OUT", "--stations"), ("sew JOB", "sew"), ("check /dev/zero", "a device or a pipe"),
]  # fmt: skip
AWAY = [
    ("set absent.tailor hand=left", "absent.tailor"), ("draft JOB -o JOB", "eaves-blade.tailor"),
    ("check absent.tailor", "absent.tailor"), ("check JOB/in", "no such file"),
    ("new OUT --style folded-sheath --stations absent.csv", "absent.csv"),
    ("new absent/OUT --style folded-sheath --stations CSV", "cannot be written"),
    ("new . --style folded-sheath --stations CSV", "it is a folder"),
    ("new / --style folded-sheath --stations CSV", "it is a folder"),
    (f"new {300 * 'n'}.tailor --style folded-sheath --stations CSV", "file name too long"),
    ("demo-data JOB", "cannot be made"),
]  # fmt: skip


@pytest.mark.parametrize(("words", "said", "status"), [*((*b, 2) for b in BAD), *((*a, 3) for a in AWAY)])
def test_bad_input_is_one_sentence_and_a_status(
    words: str, said: str, status: int, folder: Path, capsys, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.chdir(folder)
    put = {"JOB": "eaves-blade.tailor", "CSV": "eaves-blade.csv", "OUT": "out.tailor"}
    before = (folder / "eaves-blade.tailor").read_bytes()
    ended, out, err = run(capsys, *(put.get(w, w) for w in words.split()))
    assert ended == status
    assert said in err
    assert len(err) < 1500
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


def test_every_way_of_measuring_ends_in_the_same_station_table(tmp_path: Path, capsys) -> None:
    kept = {
        "w.jpg": captures.photo(),
        "g.png": captures.scan(),
        "h.svg": captures.drawing().encode(),
        "r.stl": captures.solid("laser level"),
        "t.csv": b"y,shape,width,girth\n0,oval,30,80\n90,oval,34,96\n",
    }
    for name, content in kept.items():
        (tmp_path / name).write_bytes(content)
    for words, long, most in (
        (("photo", "w.jpg", "--height", "25"), 150, 0.8),
        (("scan", "g.png", "--thickness", "14"), 178, 0.6),
        (("scan", "g.png", "--thickness", "14", "--ruler", "100,100,100,493.7=50"), 178, 1.5),
        (("outline", "h.svg", "--thickness", "5", "--fair", "0.2", "--tip", "down"), 192.8, 0.5),
        (("mesh", "r.stl", "--along", "z"), 95, 0.1),
        (("girth", "t.csv", "--straight-spine"), 90, 0.01),
        (("block", "120", "60", "30", "--edge", "6"), 120, 0.01),
        (("cylinder", "5 in", "25"), 127, 0.01),
    ):
        given = [tmp_path / w if (tmp_path / w).is_file() else w for w in words]
        status, out, err = run(capsys, "measure", *given, "-o", tmp_path / "s.csv")
        assert status == 0, err
        assert "stations, ±" in out
        table = read_csv(tmp_path / "s.csv")
        assert table.stations[-1].y == pytest.approx(long, abs=most), words
        assert table.capture is not None
    job = tmp_path / "b.tailor"
    assert run(capsys, "new", job, "--style", "folded-sheath", "--stations", tmp_path / "s.csv")[0] == 0
    assert json.loads(job.read_text())["capture"] == {"way": "block", "accuracy": 0.3}


def test_the_stand_in_caliper_speaks_on_a_port_of_its_own() -> None:
    run_ = [sys.executable, "-m", "tailor.cli", "stand-in", "caliper", "--every", "0.05"]
    with subprocess.Popen(run_, stdout=subprocess.PIPE, text=True) as spoken:
        port = spoken.stdout.readline().split()[2].rstrip(";")
        with open(port, "rb", buffering=0) as wire:
            heard = b""
            while heard.count(b"\n") < 3:
                heard += wire.read(64)
        spoken.kill()
    lengths = [parse_line(line) for line in heard.decode().splitlines()[:3]]
    assert all(0.5 < length < 250 for length in lengths)


def test_the_mat_is_printed_true_and_a_photo_of_it_is_traced(tmp_path: Path, capsys) -> None:
    for paper, (width, height) in {"a4": (210, 297), "letter": (215.9, 279.4), "a3": (297, 420)}.items():
        assert run(capsys, "mat", "-o", tmp_path / "mat.pdf", "--paper", paper)[0] == 0
        with pdfplumber.open(tmp_path / "mat.pdf") as pdf:
            page = pdf.pages[0]
            assert (page.width, page.height) == (pytest.approx(width * POINT), pytest.approx(height * POINT))
            seen = page.to_image(resolution=200).original.convert("L")
            rules = {round(line["x0"] / POINT, 2) for line in page.lines if abs(line["x1"] - line["x0"]) < 0.1}
        view = find(np.asarray(seen, dtype=np.uint8), Lens(4000.0))
        assert view.mat.paper == paper
        assert len(view.seen) == len(view.mat.markers)
        assert view.residual < 0.1
        if paper == "a4":
            left = view.mat.field[0]
            assert {round(left, 2), round(left + 100, 2)} <= rules
    (tmp_path / "w.jpg").write_bytes(captures.photo())
    trace = ("trace", tmp_path / "w.jpg", "--height", "25")
    status, out, _ = run(capsys, *trace, "--json", "-o", tmp_path / "o.svg")
    said = json.loads(out)
    assert status == 0
    assert said["error_mm"] < 0.5
    assert said["view"]["mat"] == "a4"
    assert (tmp_path / "o.svg").read_text().startswith("<svg")
    for extra, sentence in (
        (("--distortion", "1,2"), "not a distortion"),
        (("--rule", "0"), "rule"),
        (("-o", tmp_path / "o.png"), "name it .svg"),
        (("--focal-px", "-5"), "focal"),
    ):
        status, _, err = run(capsys, *trace, *extra)
        assert status == 2
        assert sentence in err
        assert err.count("\n") == 1
    (tmp_path / "p.csv").write_text("along,foot,top\n0,0,25\n150,0,25\n")
    assert run(capsys, "trace", tmp_path / "w.jpg", "--profile", tmp_path / "p.csv")[0] == 0
    assert run(capsys, "trace", tmp_path / "w.jpg", "--profile", tmp_path / "w.jpg")[0] == 2


def test_a_mock_up_is_drafted_from_the_command_line(folder: Path, capsys) -> None:
    assert run(capsys, "draft", folder / "eaves-blade.tailor", "-o", folder / "m", "--mockup", "card")[0] == 0
    assert "mock-up in card" in json.loads((folder / "m" / "report.json").read_text())["job"]["name"]


WRONG = (
    ("measure mesh NOWHERE.stl", "NOWHERE.stl: no such file"),
    ("measure mesh t.csv", "is not a kind of mesh"),
    ("measure mesh r.stl --unit m", "check its unit"),
    ("measure outline h.svg --thickness 0", "thickness of 0"),
    ("measure outline h.svg --thickness thick", "thick"),
    ("measure outline h.svg --thickness 5 --pick 9", "no closed line number 9"),
    ("measure outline r.stl --thickness 5", "is not a kind of outline"),
    ("measure scan g.png --thickness 14 --ruler 1,2,3=50", "write it as X1,Y1,X2,Y2"),
    ("measure scan g.png --thickness 14 --ruler 1,2,3,2=50", "too near each other"),
    ("measure scan g.png --thickness 14 --dpi 0", "--dpi: 0 cannot be used"),
    ("measure scan g.png --thickness 14 --dpi 600 --fair -1", "--fair: -1 cannot be used"),
    ("measure photo w.jpg --height 25 --distortion 1e9,0,0,0", "is not a distortion"),
    ("stand-in caliper --every nan", "--every: nan cannot be used"),
    ("measure scan t.csv --thickness 14", "cannot be read as a picture"),
    ("measure photo g.png --height 25", "no marker of the measuring mat"),
    ("measure photo w.jpg --height 0", "above its foot"),
    ("measure girth w.jpg", "cannot be read as text"),
    ("measure girth bad.csv", "line 2: a girth of 40 cannot go round a width of 30"),
    ("measure block 120 60 30 --edge 20", "do not fit it"),
    ("measure cylinder 120 -4", "diameter is -4"),
    ("measure", "WAY"),
    ("trace w.jpg", "--height"),
    ("mat --paper a0", "a0"),
    ("stand-in kettle", "kettle"),
)


@pytest.fixture(scope="module")
def pieces(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """What the crew measured from, and a reading that cannot be."""
    folder = tmp_path_factory.mktemp("pieces")
    for name, content in (
        ("w.jpg", captures.photo()), ("g.png", captures.scan()), ("h.svg", captures.drawing().encode()),
        ("r.stl", captures.solid("radio")), ("t.csv", b"y,shape,width,girth\n0,oval,30,80\n90,oval,34,96\n"),
        ("bad.csv", b"y,shape,width,girth\n0,oval,30,40\n90,oval,34,96\n"),
    ):  # fmt: skip
        (folder / name).write_bytes(content)
    return folder


@pytest.mark.parametrize(("said", "sentence"), WRONG)
def test_wrong_measuring_exits_two_with_one_sentence(said: str, sentence: str, pieces: Path, tmp_path, capsys) -> None:
    words = [str(pieces / w) if "." in w and not w.startswith("-") and w[0].isalpha() else w for w in said.split()]
    out = tmp_path / "s.csv"
    words += ["-o", str(out)] if words[:1] != ["stand-in"] and len(words) > 1 else []
    status, printed, err = run(capsys, *words)
    assert status == (3 if "NOWHERE" in said else 2)
    assert sentence in err
    assert err.strip().count("\n") == 0
    assert "Traceback" not in err + printed
    assert not out.exists()


CLI = [sys.executable, "-m", "tailor.cli"]


def test_a_full_a_closed_and_a_broken_off_output_are_told_by_the_status(folder: Path) -> None:
    job = str(folder / "eaves-blade.tailor")
    with open("/dev/full", "w", encoding="utf-8") as full:
        words = [*CLI, "check", job, "--json"]
        done = subprocess.run(words, stdout=full, stderr=subprocess.PIPE, text=True, check=False)
    assert (done.returncode, done.stderr.count("\n")) == (3, 1)
    assert "standard output: it cannot be written" in done.stderr
    ours, theirs = os.pipe()
    os.close(ours)
    done = subprocess.run([*CLI, "new", "--help"], stdout=theirs, stderr=subprocess.PIPE, text=True, check=False)
    os.close(theirs)
    assert done.stderr == ""
    assert done.returncode in (0, 141)
    running = subprocess.Popen([*CLI, "stand-in", "caliper"], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)
    assert running.stdout is not None
    assert "listen at" in running.stdout.readline()
    running.send_signal(signal.SIGINT)
    assert running.communicate(timeout=20)[1] == ""
    assert running.returncode == 0  # that is how it is ended


def test_names_that_no_terminal_can_show_are_spelt_out(folder: Path) -> None:
    odd = os.fsencode(folder) + b"/odd\xff\x1b[31m.tailor"
    new = [os.fsencode(word) for word in CLI] + [b"new", odd, b"--style", b"folded-sheath", b"--stations"]
    assert subprocess.run([*new, os.fsencode(folder / "eaves-blade.csv")], check=False).returncode == 0
    assert json.loads(Path(os.fsdecode(odd)).read_text())["name"] == "odd [31m"
    done = subprocess.run([*new[:3], b"check", odd + b"x"], capture_output=True, check=False)
    assert done.returncode == 3
    assert rb"odd\udcff\x1b[31m.tailorx: no such file" in done.stderr


def test_a_fault_of_ours_is_written_down(
    folder: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*_: object) -> None:
        raise ZeroDivisionError("never seen")

    monkeypatch.setattr("tailor.core.job.draft", broken)
    status, _, err = run(capsys, "check", folder / "eaves-blade.tailor")
    assert (status, err.count("\n")) == (70, 1)
    written = Path(err.split("written down in ")[1].rstrip(".\n"))
    assert "never seen" in written.read_text()
    assert '"format": "tailor-job"' in written.read_text()
