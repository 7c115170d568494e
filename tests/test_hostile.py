"""A sample of what `make hostile` does for long: kills at random instants, mutated files, a monkey at the window."""

from __future__ import annotations

import os
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

import pytest

from tests.hostile import traced
from tests.hostile.kills import DEEDS


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
    assert int(hostile("kills", deed, "60", "7", str(tmp_path)).split()[-2]) > 10


def test_a_mutated_file_loads_or_is_refused_in_one_sentence_and_opens_nothing_else(tmp_path: Path) -> None:
    for where, count in (("here", 1500), ("apart", 8)):
        (watched := tmp_path / where / "watched").mkdir(parents=True)
        (files := tmp_path / where / "files").mkdir()
        found = traced.environment(watched)
        loaded = int(hostile("fuzz", where, str(count), "11", str(files), environment=found).split()[2])
        assert traced.strays(watched, files, Path(__file__).parent) == []
        assert loaded < count  # some are too far gone
        assert loaded > 0.05 * count


def test_a_monkey_at_the_window_finds_no_fault() -> None:
    words = [sys.executable, "-m", "tests.hostile.monkey", "15", "5"]
    done = subprocess.run(
        words, capture_output=True, text=True, timeout=120, cwd=Path(__file__).parents[1], check=False
    )  # fmt: skip
    assert "Traceback" not in done.stdout + done.stderr, done.stdout
    assert int(done.stdout.split()[0]) > 50
