"""The proposing process: python -m tailor.core.proposer FD, on a line to the window that asks.

For what is asked, one construction after another is proposed and sent as soon as it is drafted; or a job is put right.
Whatever is asked next ends what is under way.
"""

from __future__ import annotations

import sys
import traceback
from collections.abc import Iterator
from dataclasses import replace
from multiprocessing.connection import Connection

from tailor.core import apart
from tailor.core.draft.draft import Draft
from tailor.core.draft.style import Asked
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.picking import Offer, Refusal, proposed
from tailor.core.righting import Mended, PutRight, put_right


class NewerError(Exception):
    """Raised inside proposals when something else is asked."""


def propose_on(line: Connection) -> None:
    """Propose for what is asked, each time with its number, until the window hangs up; None ends a row."""
    while True:
        try:
            number, job, wanted = line.recv()
            for found in _each(line, job, wanted):
                line.send((number, found))
            line.send((number, None))
        except NewerError:
            continue
        except (EOFError, OSError):
            return


def _each(line: Connection, job: Job, wanted: Asked | PutRight) -> Iterator[Offer | Refusal | Mended]:
    def tell(said: str, share: float) -> None:
        if line.poll():
            raise NewerError

    try:
        if isinstance(wanted, PutRight):
            found_ = put_right(job, tell, only=wanted.only)
            yield Mended(found_.job, found_.taken, tuple(v.name for v in found_.left))
            return
        for found in proposed(job, wanted, tell):
            yield replace(found, made=for_a_picture(found.made)) if isinstance(found, Offer) else found
            tell("", 1.0)
    except InputError as error:
        yield Refusal("", "Nothing", str(error))
    except (NewerError, OSError, EOFError):
        raise
    except Exception as fault:  # a fault of ours must not leave the picker waiting for ever
        traceback.print_exc()
        yield Refusal("", "Nothing", f"Tailor itself is at fault ({type(fault).__name__}: {fault})")


def for_a_picture(made: Draft) -> Draft:
    """A draft without what its picture does not want, which is most of it."""
    return made if made.shell is None else replace(made, formed=(), shell=made.shell.bare())


if __name__ == "__main__":
    apart.settle_in()
    propose_on(Connection(int(sys.argv[1])))
