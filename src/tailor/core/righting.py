"""Righting: taking the remedies of a ledger, alone or together, until nothing that they can end is left."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge

FACT = "object."  # what a setting begins with that is a fact of the object, not a choice
MOST_TRIES = 60  # drafts that one press may take

Tell = Callable[[str, float], None]


@dataclass(frozen=True)
class Righted:
    """A job as it was put right. taken: the remedies, key to typed value, in order. left: what none of them ends."""

    job: Job
    made: Draft
    said: tuple[Verdict, ...]
    taken: tuple[tuple[str, str], ...]

    @property
    def left(self) -> tuple[Verdict, ...]:
        return tuple(v for v in self.said if v.ruling is not Ruling.OK)


def graveness(said: Sequence[Verdict]) -> tuple[int, int]:
    """How many verdicts stop, and how many want a look."""
    return sum(v.ruling is Ruling.STOP for v in said), sum(v.ruling is Ruling.LOOK for v in said)


def _better(now: Sequence[Verdict], before: Sequence[Verdict], only: str | None) -> bool:
    ended = only is not None and all(v.ruling is Ruling.OK for v in now if v.name == only)
    return graveness(now) < graveness(before) or (ended and graveness(now) == graveness(before))


def put_right(
    job: Job,
    tell: Tell = lambda said, share: None,
    most: int = MOST_TRIES,
    facts: bool = True,
    only: str | None = None,
) -> Righted:
    """Take whatever remedies make the ledger less grave, gravest verdict first, until none does.

    tell: called before each draft with what is tried and how far it is; it may stop by raising. most: drafts that it
    may take. facts: remedies that state a fact of the object may be taken too. only: the verdict
    to be put right, by its name; all where none is given. Raises InputError
    where the job cannot be drafted and no remedy of the sentence is known.
    """
    made = draft(job)
    said, taken, tries = judge(job, made), list[tuple[str, str]](), 0
    refused = set[str]()
    while tries < most:
        wrong = [v for v in said if v.ruling is not Ruling.OK and v.name not in refused
                 and only in (None, v.name)]  # fmt: skip
        if not wrong:
            break
        verdict = wrong[0]
        found = None
        for steps in _ways(verdict):
            if not facts and any(key.startswith(FACT) for key, _ in steps):
                continue
            tries += 1
            tell(f"{verdict.name}: {', '.join(f'{k} {v}' for k, v in steps)}", tries / most)
            other = _tried(job, steps)
            if other is not None and _better(other[2], said, only):
                found = (steps, other)
                break
            if tries >= most:
                break
        if found is None:
            refused.add(verdict.name)
            continue
        taken += found[0]
        job, made, said = found[1]
    return Righted(job, made, tuple(said), tuple(taken))


def _ways(verdict: Verdict) -> Iterator[tuple[tuple[str, str], ...]]:
    """Its remedies one by one, all that let pinned settings go together, and those that only help together."""
    freed = tuple(r for r in verdict.remedies if r[1] == "auto")
    for remedy in verdict.remedies:
        yield (remedy,)
    if len(freed) > 1:
        yield freed
    yield from verdict.together


def _tried(job: Job, steps: Sequence[tuple[str, str]]) -> tuple[Job, Draft, tuple[Verdict, ...]] | None:
    """The job with remedies taken, its draft and its verdicts; None where that cannot be, or changes nothing."""
    try:
        other = job
        for key, value in steps:
            other = other.typed(key, value)
        if other == job:
            return None
        made = draft(other)
        return other, made, judge(other, made)
    except InputError:
        return None


@dataclass(frozen=True)
class PutRight:
    """What is asked for: a job to be put right; only: one verdict, by its name, or all."""

    only: str | None = None


@dataclass(frozen=True)
class Mended:
    """A job that was put right. taken: the remedies, key to typed value; left: names of what none of them ends."""

    job: Job
    taken: tuple[tuple[str, str], ...]
    left: tuple[str, ...]
