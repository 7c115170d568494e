"""Random things with settings well off, put right: python -m tests.hostile.righted COUNT SEED.

Whatever was typed, one press ends every stop and every look; or one sentence says why it cannot be made so.
"""

from __future__ import annotations

import sys
from collections import Counter

import numpy as np

from tailor.core import keys
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.righting import FACT, Righted, put_right
from tests.hostile.anyhow import value_off
from tests.things import job_of

STYLES = ("two-panel", "flat-back", "folded-sheath")
OFF = (0.5, 0.7, 0.85, 1.2, 1.5, 2.0)  # of what a measure is


def typed(number: int) -> Job:
    """The job of a number, always the same one: a thing in a fitted construction, one to three settings off.

    Raises InputError where the thing cannot be made so at all.
    """
    r = np.random.default_rng(10_000 + number)
    job = job_of(number, STYLES[int(r.integers(3))])
    if r.random() < 0.4:
        job = job.typed("mould.method", "fingers")
    made = draft(job)
    for key in r.choice(sorted(made.consulted), int(r.integers(1, 4)), replace=False):
        text = None if key.startswith(FACT) else value_off(r, keys.key(str(key)), job, made, OFF)
        if text is not None:
            job = job.typed(str(key), text)
    return job


def amiss(number: int) -> tuple[str, Righted | None]:
    """How it went in a word, and what came of putting it right, where something was to be."""
    try:
        job = typed(number)
        if all(v.ruling == "ok" for v in judge(job, draft(job))):
            return "holds", None
        righted = put_right(job)
    except InputError as error:
        return ("refused" if error.where and str(error).endswith(".") else "said badly"), None
    return ("left" if righted.left else "put right"), righted


def main(count: str, seed: str) -> int:
    came = Counter[str]()
    for number in range(int(seed) * int(count), (int(seed) + 1) * int(count)):
        how, righted = amiss(number)
        came[how] += 1
        if righted is not None and righted.left:
            print(number, righted.job.style, *(f"{v.name}: {v.reason}" for v in righted.left), sep="\n  ", flush=True)
    print(*(f"{n} {how}" for how, n in came.most_common()), sep=", ")
    return int(came["left"] + came["said badly"] > 0.02 * int(count))


if __name__ == "__main__":
    raise SystemExit(main(*sys.argv[1:]))
