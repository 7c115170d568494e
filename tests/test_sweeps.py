"""The parts that a run takes of a sweep are the whole together, each thing once."""

from __future__ import annotations

import pytest

from tests import sweeps


@pytest.mark.parametrize("count", [sweeps.PARTS, 7, 19, 60])
def test_the_parts_are_the_whole(count: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sweeps, "ALL", False)
    taken = []
    for part in range(sweeps.PARTS):
        monkeypatch.setattr(sweeps, "PART", str(part))
        taken.append(sweeps.some(range(count)))
        assert abs(len(taken[-1]) - sweeps.about(count)) <= 1
    assert sorted(each for part in taken for each in part) == list(range(count))


def test_of_a_few_one_is_taken_whatever_the_part(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(sweeps, "ALL", False)
    for part in range(sweeps.PARTS):
        monkeypatch.setattr(sweeps, "PART", str(part))
        assert len(sweeps.some("ab")) == 1
