from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path

import pytest
from hypothesis import given, settings

from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.keys import KEYS
from tailor.files import atomic, described, job_file
from tests.lofts import jobs
from tests.sweeps import about


@settings(max_examples=about(30))
@given(jobs(symmetric=False))
def test_a_job_saved_comes_back_the_same(job: Job) -> None:
    assert job_file.from_text(job_file.to_text(job)) == job


def bad(**changes: object) -> str:
    entry = json.loads(job_file.to_text(_demo()))
    for path, value in changes.items():
        entry[path] = value
    return json.dumps(entry)


def _demo() -> Job:
    from tailor import demo

    return demo.job()


BAD_JOBS = [
    ("", "damaged"), ("{", "damaged"), ("[1]", "not a Tailor job"), ('{"format":"other"}', "not a Tailor job"),
    (bad(version=6), "newer Tailor"), (bad(version="one"), "version"), (bad(name=7), "name"), (bad(name=" "), "name"),
    (bad(style="balaclava"), "not a construction"), (bad(stations=[]), "no stations"),
    (bad(stations=[{"y": 1}]), "stations.1.x_spine"), (bad(zones=[{"kind": "edge", "low": 5, "high": 1}]), "ends at 1"),
    (bad(settings={"welt.layer": 2}), "welt.layers was meant"), (bad(settings={"welt.layers": 2.5}), "whole number"),
    (bad(settings={"leather.thickness": 99}), "above the most"), (bad(settings={"seam.margin": -1}), "below the least"),
    (bad(settings={"hand": "third"}), "not a choice"), (bad(settings={"leather.neutral": "x"}), "not a plain number"),
    (bad(units="ell"), "units"), (bad(surprise=1), "surprise"), ("[" * 100_000, "damaged"),
]  # fmt: skip


@pytest.mark.parametrize(("text", "said"), BAD_JOBS)
def test_bad_files_are_refused_in_one_sentence(text: str, said: str, tmp_path: Path) -> None:
    path = tmp_path / "bad.tailor"
    path.write_text(text)
    with pytest.raises(InputError, match=said) as caught:
        job_file.load(path)
    assert "bad.tailor" in str(caught.value)
    assert "\n" not in str(caught.value)
    assert path.read_text() == text


def test_the_copy_before_the_last_save_is_kept(eaves: Job, tmp_path: Path) -> None:
    path = tmp_path / "a.tailor"
    job_file.save(eaves, path)
    job_file.save(eaves.typed("welt.layers", "3"), path)
    assert job_file.load(path).settings.pinned["welt.layers"] == 3
    assert job_file.load(atomic.previous(path)) == eaves
    names = {p.name for p in tmp_path.iterdir()}
    assert names == {"a.tailor", "a.tailor~"}  # and no half-written part left lying


SAVER = """
import os, sys
from pathlib import Path
from tailor import demo
from tailor.files import job_file
stop_at, path, seen = int(sys.argv[1]), Path(sys.argv[2]), 0
def trace(event, args):
    global seen
    if event in ("open", "os.rename", "os.link", "os.remove") or event.startswith("os."):
        seen += 1
        if seen == stop_at:
            os._exit(9)
job = demo.job().typed("welt.layers", "4")
sys.addaudithook(trace)
real = os.fsync
def fsync(fd):
    trace("os.fsync", ())
    real(fd)
os.fsync = fsync
job_file.save(job, path)
os._exit(0)
"""


def test_killed_at_any_point_of_a_save_the_job_is_still_readable(eaves: Job, tmp_path: Path) -> None:
    path = tmp_path / "bench.tailor"
    ended = []
    for stop_at in range(1, 40):
        job_file.save(eaves, path)
        done = subprocess.run([sys.executable, "-c", SAVER, str(stop_at), str(path)], env={**os.environ}, check=False)
        ended.append(done.returncode)
        assert job_file.load(path).settings.pinned.get("welt.layers") in (None, 4)
        if done.returncode == 0:
            break
    assert ended[-1] == 0
    assert ended.count(9) >= 6
    assert job_file.load(path).settings.pinned["welt.layers"] == 4


def test_a_folder_that_cannot_be_written_is_said(eaves: Job, tmp_path: Path) -> None:
    with pytest.raises(InputError, match="cannot be written"):
        job_file.save(eaves, tmp_path / "absent" / "a.tailor")


def test_the_documented_schema_and_keys_are_the_real_ones() -> None:
    import jsonschema

    text = (Path(__file__).parents[2] / "docs" / "format.md").read_text()
    schema = json.loads(text.split("```json schema\n", 1)[1].split("```", 1)[0])
    assert schema == job_file.JobEntry.model_json_schema()
    jsonschema.validate(json.loads(job_file.to_text(_demo())), schema)
    assert [name for name in KEYS if f"`{name}`" not in text] == []
    assert described.up_to_date(text) == text, "run: python -m tailor.files.described docs/format.md"
