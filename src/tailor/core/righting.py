"""Righting: taking the remedies of a ledger, alone or together, until nothing that they can end is left."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.measure import STYLE

FACT = "object."  # what a setting begins with that is a fact of the object, not a choice
DRAFTED = "Can be drafted"  # what is put right where there is no draft to be judged
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
    untouched: tuple[str, ...] = (),
    only: str | None = None,
) -> Righted:
    """Take whatever remedies make the ledger less grave, gravest verdict first, until none does.

    Where no remedy of a verdict does, one is tried that ends it at the price of another no graver, whose own remedies
    may help; what comes of that is taken only where it is less grave in the end.

    tell: called before each draft with what is tried and how far it is; it may stop by raising. most: drafts that it
    may take. untouched: what the keys begin with whose remedies are not taken, as of facts of the object. only: the
    verdict to be put right, by its name, or DRAFTED; all where none is given. Raises InputError where the job cannot be
    drafted, and none of the ways that the complaint tells is one.
    """
    now = best = _begun(job, untouched, tell)
    refused, seen, tries = set[str](), {_wrong(now.said)}, 0
    while tries < most:
        verdict = next((v for v in now.left if v.name not in refused and only in (None, v.name)), None)
        if verdict is None:
            break
        step: Righted | None = None
        for steps in _ways(verdict):
            if any(key.startswith(untouched) for key, _ in steps) or tries >= most:
                continue
            tries += 1
            tell(f"{verdict.name}: {', '.join(f'{k} {v}' for k, v in steps)}", tries / most)
            other = _typed(now.job, steps, now.taken)
            if other is not None and _better(other.said, now.said, only):
                step = other
                break
            if step is None and other is not None and _aside(verdict, other.said, now.said, seen):
                step = other
        if step is None:
            refused.add(verdict.name)
            continue
        now = step
        seen.add(_wrong(now.said))
        if _better(now.said, best.said, only):
            best = now
    return best


def _begun(job: Job, untouched: tuple[str, ...], tell: Tell) -> Righted:
    """The job drafted, or if it cannot be, by the first of the ways out of that by which it can."""
    try:
        made = draft(job)
        return Righted(job, made, judge(job, made), ())
    except InputError as error:
        for key, value in error.ways:
            if not key.startswith(untouched):
                tell(f"{key} {value}", 0.0)
                if (other := _typed(job, ((key, value),), ())) is not None:
                    return other
        raise


def _wrong(said: Sequence[Verdict]) -> frozenset[str]:
    return frozenset(v.name for v in said if v.ruling is not Ruling.OK)


def _aside(verdict: Verdict, now: Sequence[Verdict], before: Sequence[Verdict], seen: set[frozenset[str]]) -> bool:
    """Whether a verdict ended at the price of others no graver, which were not come by before."""
    wrong = _wrong(now)
    return verdict.name not in wrong and wrong not in seen and graveness(now) == graveness(before)


def _ways(verdict: Verdict) -> Iterator[tuple[tuple[str, str], ...]]:
    """Its remedies one by one, all that let pinned settings go together, and those that only help together."""
    freed = tuple(r for r in verdict.remedies if r[1] == "auto")
    for remedy in verdict.remedies:
        yield (remedy,)
        if remedy[0] == STYLE and freed:
            yield (*freed, remedy)
    if len(freed) > 1:
        yield freed
    yield from verdict.together


def _typed(job: Job, steps: tuple[tuple[str, str], ...], taken: tuple[tuple[str, str], ...]) -> Righted | None:
    """A job with remedies taken after others; None where that cannot be, or changes nothing."""
    try:
        other = job
        for key, value in steps:
            other = other.typed(key, value)
        if other == job:
            return None
        made = draft(other)
        return Righted(other, made, judge(other, made), (*taken, *steps))
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
