"""Demo jobs with settings a little off, whichever they are: python -m tests.hostile.anyhow COUNT SEED.

Each is put together from its flat pieces, and comes together; or one sentence says why it cannot be drafted, or which
of what was typed to let go.
"""

from __future__ import annotations

import sys
from functools import cache

import numpy as np

from tailor import demo
from tailor.core import keys
from tailor.core.checks import together
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.measure import Kind, Measure
from tailor.core.together.assembled import Assembled

OFF = (0.85, 0.93, 1.07, 1.15)  # of what a measure is
SEWN = 0.3  # share that has something sewn on


@cache
def plain(name: str) -> tuple[Job, Draft]:
    return demo.job(name), draft(demo.job(name))


def value_off(
    r: np.random.Generator, measure: Measure, job: Job, made: Draft, off: tuple[float, ...] = OFF
) -> str | None:
    """What is typed for a measure, off by one of the factors; None where it is nothing to be typed so."""
    if measure.told:
        return None
    if measure.choices:
        return str(r.choice(measure.choices))
    said = made.reasons.get(measure.name)
    value = said.value if said is not None else job.settings.pinned.get(measure.name, measure.usual)
    if not isinstance(value, int | float):
        return None
    if measure.kind is Kind.COUNT:
        return str(int(np.clip(value + r.choice((-1, 1)), measure.low, measure.high)))
    return f"{np.clip(value * r.choice(off), measure.low, measure.high):.2f}"


def typed(number: int) -> tuple[Job, dict[str, str]]:
    """The job of a number, always the same one, and what was typed for it."""
    r = np.random.default_rng(number)
    names = demo.names()
    job, made = plain(names[number % len(names)])
    known, words = sorted(made.consulted), dict[str, str]()
    for key in r.choice(known, int(r.integers(1, 4)), replace=False):
        text = value_off(r, keys.key(str(key)), job, made)
        if text is not None:
            job, words[str(key)] = job.typed(str(key), text), text
    if r.random() < SEWN and not made.added:
        on = str(r.choice([piece.name for piece in made.pieces if piece.leather == "body"]))
        more = {"patch.on": on, "patch.kind": str(r.choice(keys.key("patch.kind").choices)), "patch.flap": "snap 10"}
        for key, text in [
            *more.items(),
            ("patch.up", f"{r.normal(0, 12):.1f}"),
            ("patch.across", f"{r.normal(0, 8):.1f}"),
        ]:
            job, words[key] = job.typed(key, text), text
    return job, words


def amiss(number: int) -> str:
    """What is wrong with it; empty where nothing is, where one sentence says why it is not drafted, or where to let go
    of what was typed puts it right, as is said.
    """
    job, words = typed(number)
    try:
        made = draft(job).unmarked()
        found = apart(made)
        told = [v for v in together.verdicts(job.settings, made) if v.ruling != "ok"]
        if told and (ended := {key for v in told for key, _ in v.remedies} & words.keys()):
            for key in ended:
                job = job.typed(key, "auto")
            made = draft(job).unmarked()
            found, told = apart(made), [v for v in together.verdicts(job.settings, made) if v.ruling != "ok"]
        found += [v.name for v in told]
    except InputError as error:
        found = [] if str(error).endswith(".") and error.where else [str(error)]
    return f"{job.name} {words}: {', '.join(sorted(set(found)))}" if found else ""


def apart(made: Draft) -> list[str]:
    """Joints that do not meet."""
    whole = Assembled(made)
    return [
        f"{each.name} {each.distance:.2f} mm apart"
        for met, most in ((whole.seams, 0.3), (whole.fastened, 0.5), (whole.shut, 0.5))
        for each in met
        if each.distance > most
    ]


def main(count: str, seed: str) -> int:
    found = [said for n in range(int(count)) if (said := amiss(int(seed) * int(count) + n))]
    print(f"{count} settled anyhow, {len(found)} that do not come together", *found, sep="\n")
    return int(bool(found))


if __name__ == "__main__":
    raise SystemExit(main(*sys.argv[1:]))
