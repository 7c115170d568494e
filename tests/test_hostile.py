"""A sample of what `make hostile` does for long: kills at random instants, mutated files, a monkey at the window."""

from __future__ import annotations

import contextlib
import os
import random
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

import pytest

from tailor.core.bench import planner
from tailor.core.bench.work import broken
from tailor.core.cut import exact, layer
from tailor.core.errors import InputError
from tailor.files import laid, laid_sheet, planned
from tests.hostile import anyhow, traced
from tests.hostile.fuzz import LAYING, PLANNING
from tests.hostile.kills import DEEDS
from tests.sweeps import about, some


def hostile(module: str, *words: str, environment: Mapping[str, str] = os.environ) -> str:
    """What a module says that is run by itself."""
    done = subprocess.run(
        [sys.executable, "-m", f"tests.hostile.{module}", *words], capture_output=True, text=True, timeout=240,
        env={**environment, "QT_QPA_PLATFORM": "offscreen"}, cwd=Path(__file__).parents[1], check=False,
    )  # fmt: skip
    assert done.returncode == 0, done.stdout + done.stderr
    return done.stdout


@pytest.mark.parametrize("deed", DEEDS)
def test_killed_at_random_instants_nothing_is_lost_half_there_or_left_over(deed: str, tmp_path: Path) -> None:
    count = str(about(20 if deed == "shop" else 60))  # a book takes longer to open than a file
    assert int(hostile("kills", deed, count, "7", str(tmp_path)).split()[-2]) > int(count) / 6


def test_a_mutated_file_loads_or_is_refused_in_one_sentence_and_opens_nothing_else(tmp_path: Path) -> None:
    for where, count in (("here", about(1500)), ("apart", about(8))):
        (watched := tmp_path / where / "watched").mkdir(parents=True)
        (files := tmp_path / where / "files").mkdir()
        found = traced.environment(watched)
        loaded = int(hostile("fuzz", where, str(count), "11", str(files), environment=found).split()[2])
        assert traced.strays(watched, files, Path(__file__).parent) == []
        assert loaded < count  # some are too far gone
        assert loaded > 0.05 * count


@pytest.mark.parametrize("seed", range(3))
def test_what_is_settled_a_little_off_comes_together(seed: int) -> None:
    assert [said for n in some(range(20)) if (said := anyhow.amiss(1000 * seed + n))] == []


def test_a_monkey_at_the_window_finds_no_fault() -> None:
    words = [sys.executable, "-m", "tests.hostile.monkey", "15", "5"]
    done = subprocess.run(
        words, capture_output=True, text=True, timeout=120, cwd=Path(__file__).parents[1], check=False
    )  # fmt: skip
    assert "Traceback" not in done.stdout + done.stderr, done.stdout
    assert int(done.stdout.split()[0]) > 50


def numbers_changed(content: bytes, rng: random.Random) -> bytes:
    """Content with up to three of its digits put otherwise, so that most of it still loads."""
    made = bytearray(content)
    for _ in range(rng.randint(1, 3)):
        at = rng.choice([k for k, letter in enumerate(made) if chr(letter).isdigit()])
        made[at : at + 1] = rng.choice([b"0", b"1", b"9", b"-3", b"77", b"1e3", b"0.5", b"9999"])
    return bytes(made)


def test_a_problem_with_other_numbers_is_solved_as_it_says_or_refused(tmp_path: Path) -> None:
    rng, path, laid_out, put_in = random.Random(3), tmp_path / "asked.json", 0, 0
    for _ in range(60):
        path.write_bytes(numbers_changed(LAYING, rng))
        with contextlib.suppress(InputError):
            laying = laid.problem(path)
            found = layer.laid_out(laying, 0, seconds=1.0, steps=10)
            pinned = any(template.pinned for template in laying.templates)  # which may be where it cannot lie
            assert pinned or not list(exact.faults(laying, found.laid))
            laid_sheet.write(laying, found, tmp_path / "out")
            laid_out += 1
        path.write_bytes(numbers_changed(PLANNING, rng))
        with contextlib.suppress(InputError):
            work = planned.problem(path)
            plan, _ = planner.planned(work, 0, 1.0, 10)
            assert not list(broken(work, plan)), path.read_text()
            put_in += 1
    assert laid_out > 20
    assert put_in > 15
