"""What tests share: lofts to wrap, the demo job, and a window that keeps its state to itself."""

from __future__ import annotations

import os
import tempfile
from pathlib import Path

import pytest

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["XDG_CONFIG_HOME"] = tempfile.mkdtemp(prefix="tailor-")  # no tester's own tables of sizes

from hypothesis import HealthCheck, Phase, settings

from tailor.core.draft.draft import Draft
from tailor.core.job import Job
from tests import shared
from tests.sweeps import about

shared.begin()

settings.register_profile(
    "bench", max_examples=about(100), deadline=None, derandomize=True,
    phases=[Phase.explicit, Phase.generate],  # shrinking drafts takes minutes
    suppress_health_check=[HealthCheck.too_slow, HealthCheck.filter_too_much],
)  # fmt: skip
settings.load_profile("bench")


@pytest.fixture(autouse=True)
def own_state(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path / "state"))
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "own data"))


@pytest.fixture(scope="session")
def eaves() -> Job:
    from tailor import demo

    return demo.job("eaves-blade")


@pytest.fixture(scope="session")
def sheath(eaves: Job) -> Draft:
    from tailor.core.job import draft

    return draft(eaves)
