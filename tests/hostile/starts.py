"""Starts with whatever may lie in state, config and the last job: python -m tests.hostile.starts FOLDER.

Each is to show a usable window within SECONDS.
"""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from collections.abc import Callable, Mapping
from dataclasses import replace
from pathlib import Path

import numpy as np

from tailor import demo
from tailor.core.carried.stations import Station
from tailor.files import job_file

SECONDS = 3.0
USABLE = """
import time; begun = time.perf_counter()
from PyQt6.QtWidgets import QApplication
from tailor.desk.start import Start
start = Start(); app = QApplication.instance()
while start.bench is None:
    app.processEvents()
    time.sleep(0.002)
app.processEvents()
print(time.perf_counter() - begun)
start.close()
os = __import__("os"); os._exit(0)
"""


def _last(text: str) -> Callable[[Path], None]:
    def lay(folder: Path) -> None:
        (last := folder / "last.tailor").write_text(text)
        _recent(f'["{last}"]')(folder)

    return lay


def _recent(text: str) -> Callable[[Path], None]:
    def lay(folder: Path) -> None:
        (folder / "state" / "tailor").mkdir(parents=True)
        (folder / "state" / "tailor" / "recent.json").write_text(text)

    return lay


def _tables(folder: Path) -> None:
    (folder / "config" / "tailor").mkdir(parents=True)
    for name in ("fastenings.csv", "trimmings.csv", "leathers.csv"):
        (folder / "config" / "tailor" / name).write_text("kind,name\n" + "x," * 200_000)


def _in_the_way(folder: Path) -> None:
    (folder / "state").write_text("a file")


def _litter(folder: Path) -> None:
    (state := folder / "state" / "tailor").mkdir(parents=True)
    text = job_file.to_text(demo.job())
    for n in range(300):
        (state / f"{n}.kept").write_text(text[: n * 20])
        (state / f".{n}.part").write_text("half")


def _slow() -> str:
    """A job that takes long to draft: moulded, with as many stations as one would ever measure."""
    job = demo.job("stapler")
    ends = job.stations[0].y, job.stations[-1].y
    ys = np.linspace(*ends, 400)
    sizes = job.loft.sizes(ys)
    many = tuple(
        Station(float(y), float(x), float(x + w), float(f), float(b), job.stations[1].shape)
        for y, (x, w, f, b, _) in zip(ys, sizes, strict=True)
    )
    return job_file.to_text(replace(job, stations=many))


STATES: Mapping[str, Callable[[Path], None]] = {
    "nothing there": lambda folder: None,
    "null": _recent("null"),
    "deeply nested": _recent("[" * 2000 + "]" * 2000),
    "5 MB of recent files": _recent('["' + '", "'.join(f"nowhere/{n}" for n in range(300_000)) + '"]'),
    "a huge number in the last job": _last('{"format": "tailor-job", "version": ' + "9" * 5000 + "}"),
    "an empty last job": _last(""),
    "a last job slow to draft": _last(_slow()),
    "wild tables": _tables,
    "a file where state goes": _in_the_way,
    "litter of kills": _litter,
}


def took(lay: Callable[[Path], None], folder: Path) -> float:
    """Seconds until the window can be used, with what was laid in a folder."""
    folder.mkdir()
    lay(folder)
    found = {**os.environ, "XDG_STATE_HOME": str(folder / "state"), "XDG_CONFIG_HOME": str(folder / "config"),
             "XDG_DATA_HOME": str(folder / "data")}  # fmt: skip
    found["HOME"], found["QT_QPA_PLATFORM"] = str(folder), "offscreen"
    done = subprocess.run(
        [sys.executable, "-c", USABLE], capture_output=True, text=True, env=found, timeout=60, check=True
    )  # fmt: skip
    assert "Traceback" not in done.stderr, done.stderr
    return float(done.stdout.split()[-1])


def main(folder: str) -> int:
    Path(folder).mkdir(exist_ok=True)
    slowest = 0.0, ""
    for n, (said, lay) in enumerate(STATES.items()):
        seconds = min(took(lay, Path(folder) / f"{n}-{turn}") for turn in range(2))
        slowest = max(slowest, (seconds, said))
    shutil.rmtree(folder, ignore_errors=True)
    print(f"{len(STATES)} starts, slowest {slowest[0]:.2f} s ({slowest[1]})")
    return int(slowest[0] > SECONDS)


if __name__ == "__main__":
    raise SystemExit(main(*sys.argv[1:]))
