"""Changed: how the steps of a thing differ from what they were: what came, what went, what moved, what takes longer."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence

from tailor.core.bench.steps import Doing, Follows, Steps


def changed(before: Steps, after: Steps) -> tuple[str, ...]:
    """What differs, each in a line: steps that are gone, that are new, that moved, that take other minutes; waits."""
    was, now = _in_row(before), _in_row(after)
    these = {doing.key: doing for doing in now}
    those = {doing.key: doing for doing in was}
    found = [f"no longer: {doing.name}" for doing in was if doing.key not in these]
    place = {doing.key: n for n, doing in enumerate(now)}
    for doing in now:
        if doing.key not in those:
            found.append(f"new: {doing.name}, {doing.whole_minutes} min{_after(now, place[doing.key])}")
    stay = _longest([place[doing.key] for doing in was if doing.key in these])
    for doing in now:
        if doing.key in those and place[doing.key] not in stay:
            found.append(f"moved: {doing.name}{_after(now, place[doing.key])}")
    for doing in now:
        if (old := those.get(doing.key)) is not None and old.whole_minutes != doing.whole_minutes:
            found.append(f"{doing.name}: {old.whole_minutes} → {doing.whole_minutes} min")
    old_waits, new_waits = _waits(before), _waits(after)
    for pair, wait in new_waits.items():
        if pair in old_waits and _bounds(old_waits[pair]) != _bounds(wait):
            found.append(f"{these[pair[1]].name}: {_bounds(wait)} after, not {_bounds(old_waits[pair])}")
    return tuple(found)


def _after(row: Sequence[Doing], n: int) -> str:
    return f", after: {row[n - 1].name}" if n else ", first of all"


def _in_row(steps: Steps) -> list[Doing]:
    """Steps one after another as they may be done, else as they were derived."""
    left = {doing.key: {f.before for f in steps.follows if f.after == doing.key} for doing in steps.doings}
    row, done, waiting = list[Doing](), set[str](), list(steps.doings)
    while waiting:
        first = next((doing for doing in waiting if left[doing.key] <= done), waiting[0])
        waiting.remove(first)
        done.add(first.key)
        row.append(first)
    return row


def _longest(numbers: Sequence[int]) -> set[int]:
    """The longest row among numbers that rises: what is not in it has moved."""
    ends, at, before = list[int](), list[int](), list[int]()
    for n, number in enumerate(numbers):
        k = bisect_left(ends, number)
        before.append(at[k - 1] if k else -1)
        ends[k : k + 1], at[k : k + 1] = [number], [n]
    found, n = set[int](), at[-1] if at else -1
    while n >= 0:
        found.add(numbers[n])
        n = before[n]
    return found


def _waits(steps: Steps) -> Mapping[tuple[str, str], Follows]:
    return {(f.before, f.after): f for f in steps.follows}


def _bounds(wait: Follows) -> str:
    return f"{wait.least} min" if wait.most is None else f"{wait.least} to {wait.most} min"
