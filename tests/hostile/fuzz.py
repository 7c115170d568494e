"""Mutated inputs over all readers: python -m tests.hostile.fuzz here|apart COUNT SEED FOLDER.

Each loads, or is refused in one sentence, in bounded time and memory.
"""

from __future__ import annotations

import json
import os
import random
import resource
import sys
import time
from collections.abc import Callable, Mapping
from datetime import date
from pathlib import Path

from tailor import demo
from tailor.core import incoming
from tailor.core.carried import readings, stations
from tailor.core.errors import InputError
from tailor.core.incoming import plain
from tailor.core.leather import fastenings, trimmings
from tailor.core.leather.tables import shipped
from tailor.core.log.learning import learned
from tailor.demo import captures
from tailor.demo.log import log
from tailor.demo.shop import shop
from tailor.files import cases, job_file, laid, outlines, photos, planned, taken
from tailor.files.shop_book import exchange, rows

SECONDS, MEMORY = 8.0, 1_000_000_000
NASTY = (
    b"\0", b"\xff", b"null", b"NaN", b"-", b"1e999", b"9" * 400, b"[" * 40, b'"', b",", b"\n", b"\r", b";", b"{", b"}",
    b"-0", b"1e-320", b"\xe2\x80\xa8", b"<b>", b"../../x", b"%s", b"99999999", b"/etc/hostname",
    b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]>', b'<image href="file:///etc/hostname"/>', b"&x;",
    b'<style>@import "file:///etc/hostname";</style>',
)  # fmt: skip
LAYING = json.dumps({
    "format": "tailor-layout-problem/1", "units": "mm", "back_band_mm": 170,
    "sheets": [{
        "id": 1, "outline": [[0, 0], [500, 0], [500, 400], [0, 400]], "forbidden": [[[20, 20], [40, 20], [30, 50]]],
        "zones": [{"name": "belly", "grade": "loose", "polygon": [[0, 0], [500, 0], [500, 90]]}], "priority": 0,
    }],
    "pieces": [{
        "id": "a", "polygon": [[0, 0], [90, 0], [90, 40]], "spacing": 2.5, "wanted": "prime",
        "rotation": {"bases_deg": [0, 180], "plus_minus_deg": 5},
        "pinned": {"sheet": 1, "mirror": True, "rotate_deg": 180, "move": [99, 99]},
    }],
}).encode()  # fmt: skip
PLANNING = json.dumps({
    "format": "tailor-plan-problem/1", "people": [{"id": "A", "windows": [[1080, 1260], [2520, 2700]]}],
    "orders": [{"id": "o", "item": "case", "weight": 1, "due": 2000}],
    "steps": [{"id": "a", "order": "o", "name": "glue", "dur": 9, "family": "glue"},
              {"id": "b", "order": "o", "dur": 90, "min_chunk": 15}],
    "lags": [{"from": "a", "to": "b", "min": 15, "max": 40, "place": "press", "hold": True}],
    "places": {"press": 1}, "families": {"glue": 4},
}).encode()  # fmt: skip
TODAY = date(2026, 5, 4)
SHOP = json.dumps({"format": exchange.FORMAT, **rows.all_rows(shop(TODAY), log(TODAY)[:3])}).encode()
CASES = json.dumps({"format": cases.CASES, "cases": [
    {"constant": "leather.neutral", "leather": "olive", "tannage": "vegetable", "value": 0.44, "spread": 0.02,
     "made_on": "2026-01-02"},
    {"constant": "fit.clearance", "thing": "sheath", "drafted": 0.5, "said": "tight", "when": "a month",
     "made_on": "2026-01-02", "gap": 0.4},
    {"rate": "hole", "work": "awl", "amount": 200, "minutes": 20, "made_on": "2026-01-02"},
]}).encode()  # fmt: skip
LEARNED = json.dumps({"format": taken.FORMAT, "learned": [
    {"constant": "leather.neutral", "value": 0.44, "sd": 0.02, "cases": 5, "table": 0.5, "leather": "olive",
     "thickness": 3.0, "temper": "firm"},
]}).encode()  # fmt: skip
GIRTHS = b"y,shape,width,girth\n0,oval,30,80\n90,oval,34,96\n"


def mutated(content: bytes, rng: random.Random) -> bytes:
    """Content with a few bytes changed, cut, doubled, or put in from what has broken readers before."""
    made = bytearray(content)
    for _ in range(rng.randint(1, 4)):
        at = rng.randrange(len(made) + 1)
        to = min(at + rng.choice((1, 3, 20, 400)), len(made))
        match rng.randrange(6):
            case 0:
                made[at:to] = b""
            case 1:
                made[at:at] = rng.choice(NASTY)
            case 2:
                made[at:to] = rng.choice(NASTY)
            case 3:
                made[at:at] = made[at:to] * rng.choice((1, 2, 50))
            case 4:
                made[at:to] = rng.randbytes(to - at)
            case _:
                made = made[:at] if rng.random() < 0.3 else made
    return bytes(made)


def _panels(path: Path) -> object:
    return outlines.read(path, "mm")


def _sizes(module: object) -> Callable[[Path], object]:
    def read(path: Path) -> object:
        return module.read(path.read_text(encoding="utf-8", errors="replace"), path.name)

    return read


def quick() -> Mapping[str, tuple[bytes, Callable[[Path], object]]]:
    """What is read here: by suffix a sound file and its reader."""
    return {
        "tailor": (job_file.to_text(demo.job("old-pouch")).encode(), job_file.load),
        "csv": (demo.measurements("eaves-blade").encode(), stations.read_csv),
        "girth.csv": (GIRTHS, readings.read_csv),
        "fastenings.csv": (shipped("fastenings.csv").encode(), _sizes(fastenings)),
        "trimmings.csv": (shipped("trimmings.csv").encode(), _sizes(trimmings)),
        "laying.json": (LAYING, laid.problem),
        "planning.json": (PLANNING, planned.problem),
        "cases.json": (CASES, lambda path: learned(*cases.read(path))),
        "learned.json": (LEARNED, taken.read),
        "shop.json": (SHOP, lambda path: exchange.from_text(incoming.read_text(path, incoming.JOB), path.name)),
    }


def apart() -> Mapping[str, tuple[bytes, Callable[[Path], object]]]:
    """What is read by a process apart: by suffix a sound file and its reader."""
    return {
        "svg": (captures.drawing().encode(), _panels),
        "stl": (captures.solid("radio"), outlines.read_mesh),
        "png": (captures.scan(), photos.read),
        "jpg": (captures.photo(), photos.read),
    }


def sound(error: InputError) -> bool:
    """Whether a complaint is one sentence that can be printed: what, where, and how to put it right."""
    said = str(error)
    return len(said) < 3000 and plain(said) and all(part.strip() for part in (error.what, error.where, error.remedy))


def read(kinds: Mapping[str, tuple[bytes, Callable[[Path], object]]], count: int, seed: int, folder: Path) -> int:
    """Read so many mutated files of some kinds; how many of them loaded. Raises AssertionError for what must not be."""
    rng, loaded = random.Random(seed), 0
    for n in range(count):
        name = rng.choice(list(kinds))
        content, reader = kinds[name]
        path = folder / f"mutated.{name}"
        path.write_bytes(mutated(content, rng))
        begun = time.monotonic()
        try:
            reader(path)
            loaded += 1
        except InputError as error:
            if not sound(error):
                raise AssertionError((name, n, seed)) from error
        assert time.monotonic() - begun < SECONDS, (name, n, seed)
        assert os.listdir(folder) == [path.name], "something else was written"
        path.unlink()
    assert max(most_memory(), resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss * 1024) < MEMORY
    return loaded


def most_memory() -> int:
    """The most memory this process ever had, bytes; what the one that began it had is not counted."""
    said = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
    return int(said.split()[1]) * 1024


def main(where: str, count: str, seed: str, folder: str) -> None:
    loaded = read(quick() if where == "here" else apart(), int(count), int(seed), Path(folder))
    print(f"read {where}: {loaded} of {count} mutated files loaded")


if __name__ == "__main__":
    main(*sys.argv[1:])
