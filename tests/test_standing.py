"""Every demo job, and some things besides, come to what somebody last looked at."""

from __future__ import annotations

import pytest

from tests.besides import NEARLY
from tests.standing import EVERY, NEAR, SETTLED, moved, numbers, stands
from tests.sweeps import some


@pytest.mark.parametrize("name", [*(name for name in EVERY if name not in SETTLED), *some(SETTLED)])
def test_it_comes_to_what_was_looked_at(name: str) -> None:
    """Where this fails and should, look at each number: make standing takes them, and says which moved."""
    assert moved(stands(name), numbers(name), NEARLY.get(name, NEAR)) == []
