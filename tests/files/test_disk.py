"""What is written and read on the disk: nothing lost to another, nothing let in that is no file."""

from __future__ import annotations

import os
import stat
import subprocess
import sys
import time
from pathlib import Path

import pytest

from tailor.core import incoming
from tailor.core.errors import DiskError, InputError
from tailor.core.job import Job
from tailor.demo import captures
from tailor.files import atomic, job_file, kinds, pattern, photos, state


def test_a_saved_file_keeps_its_mode_and_a_link_its_place(eaves: Job, tmp_path: Path) -> None:
    real, link = tmp_path / "real.tailor", tmp_path / "link.tailor"
    job_file.save(eaves, real)
    mask = os.umask(0)
    os.umask(mask)
    assert stat.S_IMODE(real.stat().st_mode) == 0o666 & ~mask
    real.chmod(0o600)
    link.symlink_to(real)
    job_file.save(eaves.typed("hand", "left"), link)
    assert link.is_symlink()
    assert stat.S_IMODE(real.stat().st_mode) == 0o600
    assert job_file.load(real).settings.word("hand") == "left"
    assert job_file.load(atomic.previous(real)) == eaves
    assert {p.name for p in tmp_path.iterdir()} == {"real.tailor", "real.tailor~", "link.tailor"}


def test_a_disk_without_second_names_keeps_the_copy_all_the_same(
    eaves: Job, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    def no_links(*_: object) -> None:
        raise PermissionError(1, "Operation not permitted")

    monkeypatch.setattr(os, "link", no_links)
    path = tmp_path / "a.tailor"
    job_file.save(eaves, path)
    job_file.save(eaves.typed("hand", "left"), path)
    assert job_file.load(atomic.previous(path)) == eaves
    assert len(list(tmp_path.iterdir())) == 2


def test_two_that_change_one_job_at_once_both_do(eaves: Job, tmp_path: Path) -> None:
    path = tmp_path / "a.tailor"
    job_file.save(eaves, path)
    keys = ("belt.width=41", "welt.proud=2", "belt.thickness=3", "seam.fairing=0.4", "fit.clearance=0.7", "hand=left")
    running = [subprocess.Popen([sys.executable, "-m", "tailor.cli", "set", str(path), key]) for key in keys]
    assert [one.wait() for one in running] == [0] * len(keys)
    assert set(job_file.load(path).settings.pinned) >= {key.split("=")[0] for key in keys}


def test_only_what_is_a_file_of_its_size_is_read(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    (tmp_path / "large").write_bytes(bytes(2000))
    (tmp_path / "long").write_text("a" * 20_000)
    begun = time.monotonic()
    for name, said in (
        ("pipe", "a device or a pipe"), (".", "a folder"), ("large", "more than Tailor reads"), ("absent", "no such"),
        ("large/in", "no such file"), ("n" * 300, "cannot be read"), ("a\0b", "cannot be read"),
    ):  # fmt: skip
        with pytest.raises(InputError, match=said):
            incoming.read_bytes(tmp_path / name, 1000)
    with pytest.raises(InputError, match="a device"):
        incoming.read_bytes(Path("/dev/zero"), 1000)
    with pytest.raises(InputError, match="line 1: it has 20000 characters"):
        incoming.read_text(tmp_path / "long")
    for text, said in (("[" * 31 + "]" * 31, "nested 31 deep"), ("9" * 41, "41 digits"), ('{"a": ', "damaged")):
        with pytest.raises(InputError, match=said):
            incoming.parse_json(text)
    assert incoming.parse_json('{"a[[[": ["[", -3.5]}') == {"a[[[": ["[", -3.5]}
    assert time.monotonic() - begun < 1


def test_nothing_is_run_that_lies_in_the_folder_tailor_is_started_in(tmp_path: Path) -> None:
    for name in ("numpy", "json", "shapely", "cv2", "trimesh"):
        (tmp_path / f"{name}.py").write_text(f"open({str(tmp_path / 'run')!r}, 'w')\n")
    (tmp_path / "a.svg").write_text('<svg xmlns="http://www.w3.org/2000/svg" width="50mm" height="50mm"/>')
    tried = "from tailor.files import guarded; from pathlib import Path; guarded.read('svg', Path('a.svg'))"
    done = subprocess.run(
        [sys.executable, "-P", "-c", tried], cwd=tmp_path, capture_output=True, text=True, check=False
    )
    assert "no closed line" in done.stderr
    assert not (tmp_path / "run").exists()


def test_a_huge_picture_is_refused_apart(tmp_path: Path) -> None:
    from PIL import Image

    Image.MAX_IMAGE_PIXELS = None
    path = tmp_path / "huge.png"
    Image.new("L", (11_000, 11_000)).save(path, compress_level=1)
    with pytest.raises(InputError, match=r"megapixels; save it smaller|far too many pixels"):
        photos.read(path)
    assert kinds.KINDS["photo"].seconds <= 12


def test_a_pattern_is_of_one_job_and_leaves_what_is_not_its_own(eaves: Job, tmp_path: Path) -> None:
    (tmp_path / "mine.txt").write_text("mine")
    pattern.write(eaves, tmp_path)
    before = {p.name: p.read_bytes() for p in tmp_path.iterdir()}
    (tmp_path / "marking-strip.pdf").unlink()
    (tmp_path / "marking-strip.pdf").mkdir()
    with pytest.raises(DiskError, match=r"marking-strip\.pdf is a folder"):
        pattern.write(eaves.typed("hand", "left"), tmp_path)
    for name, content in before.items():
        assert name == "marking-strip.pdf" or (tmp_path / name).read_bytes() == content


def test_a_fault_is_written_down_once_and_told_once(eaves: Job) -> None:
    assert state.untold() == []
    time.sleep(0.01)
    try:
        raise ZeroDivisionError("never seen")
    except ZeroDivisionError as fault:
        path = state.note_fault(fault, "tailor check a\nb", job_file.to_text(eaves))
    assert path is not None
    text = path.read_text()
    assert "never seen" in text
    assert r"tailor check a\nb" in text
    assert job_file.from_text(text.partition("job:\n")[2]) == eaves
    assert state.untold() == [path]
    assert state.untold() == []


WATCHED = """
import os, sys
from pathlib import Path
touched = set()
def watch(event, args):
    if event == "open":
        path, mode, flags = args
        if isinstance(path, int) or not (flags & (os.O_WRONLY | os.O_RDWR | os.O_CREAT)):
            return
    elif event not in ("os.rename", "os.remove", "os.mkdir", "os.link", "os.truncate", "os.chmod", "os.rmdir"):
        return
    for path in args[: 2 if event in ("os.rename", "os.link") else 1]:
        if not isinstance(path, int):  # one that is open already was looked at when it was opened
            touched.add(os.path.realpath(os.fsdecode(path)))
sys.addaudithook(watch)
from tailor.cli import main
status = main(sys.argv[1:])
outside = [p for p in touched if Path(os.getcwd()) not in (Path(p), *Path(p).parents) and p != "/dev/null"]
print(status, len(touched), sorted(outside))
"""


@pytest.mark.parametrize(
    "words",
    [
        "draft a.tailor -o out",
        "set a.tailor hand=left",
        "check a.tailor",
        "right a.tailor",
        "measure outline a.svg --thickness 5 -o s.csv",
    ],
)
def test_nothing_outside_the_folder_is_written(words: str, eaves: Job, tmp_path: Path) -> None:
    job_file.save(eaves, tmp_path / "a.tailor")
    (tmp_path / "a.svg").write_text(captures.drawing())
    done = subprocess.run(
        [sys.executable, "-B", "-c", WATCHED, *words.split()], cwd=tmp_path, capture_output=True, text=True, check=False
    )  # fmt: skip
    status, _, outside = done.stdout.splitlines()[-1].split(" ", 2)
    assert (status, outside) == ("0", "[]"), done.stderr
