"""Drafts are shared: what one test has drafted and judged is not drafted again by the next, nor by a helper process.

A draft is a pure function of its job, so that whoever drafts the same job gets the same. What sets out from a draft
before is drafted whatever is there; `anew` drafts without looking at what is.
"""

from __future__ import annotations

import atexit
import hashlib
import os
import pickle
import shutil
import tempfile
from collections import OrderedDict
from contextlib import suppress
from functools import wraps
from pathlib import Path

from tailor.core import job as jobs
from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft
from tailor.core.errors import InputError
from tailor.core.job import Job

PLACE = "TAILOR_TESTS_DRAFTS"  # the folder where they lie, the same for all processes of one run
AT_HAND = 40  # that a process keeps as they are
LYING = 200  # that lie in the folder, of some 2 MB each
anew, judged_anew = jobs.draft, jobs.judge

_at_hand: OrderedDict[str, Draft | InputError] = OrderedDict()
_said: dict[str, tuple[Verdict, ...]] = {}


def begin() -> None:
    """From now on drafts are shared, but where PLACE is empty. To be called before anything is imported that drafts."""
    if os.environ.get(PLACE) == "":
        return
    if PLACE not in os.environ:
        os.environ[PLACE] = tempfile.mkdtemp(prefix="tailor-drafts-")
        atexit.register(shutil.rmtree, os.environ[PLACE], ignore_errors=True)
    jobs.draft, jobs.judge = _drafted, _judged


@wraps(anew)
def _drafted(job: Job, before: Draft | None = None, rough: bool = False) -> Draft:
    if before is not None:
        return anew(job, before, rough)
    name = _name(job, rough)
    found = _at_hand.pop(name, None) or _lying(name) or _laid_down(job, rough, name)
    _at_hand[name] = found
    if len(_at_hand) > AT_HAND:
        _said.pop(_at_hand.popitem(last=False)[0], None)
    if isinstance(found, InputError):
        raise found.with_traceback(None)
    return found


@wraps(judged_anew)
def _judged(job: Job, made: Draft) -> tuple[Verdict, ...]:
    name = _name(job, made.rough)
    if _at_hand.get(name) is not made:
        return judged_anew(job, made)
    if name not in _said:
        _said[name] = judged_anew(job, made)
    return _said[name]


def _name(job: Job, rough: bool) -> str:
    return hashlib.sha256(pickle.dumps((job, rough))).hexdigest()


def _lying(name: str) -> Draft | InputError | None:
    path = _folder() / name
    try:
        found: Draft | InputError = pickle.loads(path.read_bytes())
        os.utime(path)  # a file that another process has just taken away is not made again
    except OSError:
        return None
    return found


def _laid_down(job: Job, rough: bool, name: str) -> Draft | InputError:
    found: Draft | InputError
    try:
        found = anew(job, None, rough)
    except InputError as error:
        found = error
    part = _folder() / f"{name}.{os.getpid()}"
    part.write_bytes(pickle.dumps(found))
    part.rename(_folder() / name)
    if len(lying := list(_folder().iterdir())) > LYING:
        with suppress(OSError):  # another process takes some away too
            for old in sorted(lying, key=lambda path: path.stat().st_mtime)[: LYING // 10]:
                old.unlink()
    return found


def _folder() -> Path:
    return Path(os.environ[PLACE])
