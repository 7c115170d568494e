"""Outcome: everything that is worked out of a job at once, in whatever process."""

from __future__ import annotations

import traceback
from dataclasses import dataclass

from tailor.core import apart
from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft
from tailor.core.draft.views.section import cut_through
from tailor.core.errors import InputError
from tailor.core.job import Job, draft, judge
from tailor.core.looked import Look, Looked, looked

IN = 1.0  # mm below the mouth, where any case can be sliced


@dataclass(frozen=True)
class Outcome:
    """A draft and its verdicts, for the job they were made from; or why it could not be made.

    looked: what was asked to be looked at in the draft. rough: it was drafted for a glance only.
    """

    job: Job
    made: Draft | None
    said: tuple[Verdict, ...] = ()
    error: InputError | None = None
    looked: Looked | None = None
    rough: bool = False


def work_out(job: Job, before: Draft | None = None, look: Look | None = None, rough: bool = False) -> Outcome:
    """Draft and judge a job, setting out from the draft before, and look at it. Pure: it may run anywhere."""
    try:
        made = draft(job, before, rough)
        cut_through(made, made.top - IN)  # what every slice goes by is worked here, and goes with the draft
        return Outcome(job, made, judge(job, made), None, None if look is None else looked(look, job, made), made.rough)
    except InputError as error:
        return Outcome(job, None, (), error, rough=rough)
    except MemoryError:
        return Outcome(job, None, (), apart.too_much_memory(), rough=rough)
    except Exception as fault:  # a fault of ours must not leave the window waiting for ever
        traceback.print_exc()
        said = f"Tailor itself is at fault ({type(fault).__name__}: {fault})"
        return Outcome(job, None, (), InputError(said, "draft", "undo the last change; your work is kept"))
