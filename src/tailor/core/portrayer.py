"""The portraying process: python -m tailor.core.portrayer FD, on a line to the window that asks.

A job is drafted, put together and drawn as it looks when it is made, small; one after another, and never in a hurry.
"""

from __future__ import annotations

import os
import sys
import traceback
from multiprocessing.connection import Connection

import numpy as np

from tailor.core import apart
from tailor.core.errors import InputError
from tailor.core.job import Job, draft
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing, Dyes
from tailor.core.together.drawn import drawn
from tailor.core.together.solids import Bytes, Sight

TURN, TILT = -28.0, 18.0  # degrees it is seen from
FULL = 0.98  # of the picture that it fills
LONG = 1.6  # times as tall as it is wide
FINER = 3  # times as fine as it is seen, that it is drawn
AFTER = 10  # how far behind all else it stands in line for the machine


def portrait(job: Job, dyes: Dyes, size: tuple[int, int]) -> Bytes | None:
    """A job as it looks when it is made, RGBA (h, w, 4); None where none of its pieces says where it goes.

    dyes: of what is seen. size: the most it may be wide and high, px; it is no larger than what is seen. Raises
    InputError where it cannot be drafted.
    """
    made = draft(job)
    closing = Closing(Assembled(made.unmarked()), dyes)
    if not closing.steps:
        return None
    solids = closing.at(float(len(closing.steps)))
    if made.mirrored:
        solids = solids.mirrored()
    ways = Sight(TURN, TILT).ways
    rest = solids.triangles[~np.isin(solids.whose, closing.hanging)]  # a long strap runs out of the picture
    flat = solids.corners[np.unique(rest)] @ ways.T
    low, high = flat.min(axis=0), flat.max(axis=0)
    seen = (high - low)[:2]
    lies = seen[1] > LONG * seen[0] and size[0] > size[1]  # a long thing is seen better lying
    scale = float(np.min(np.array(size[::-1] if lies else size) / np.maximum(seen, 1.0)))
    wide, tall = (FINER * max(int(np.ceil(each * scale)), 1) for each in seen)
    picture = _softened(drawn(solids, Sight(TURN, TILT, (low + high) / 2 @ ways, FINER * FULL * scale), (wide, tall)))
    return np.ascontiguousarray(np.rot90(picture, -1)) if lies else picture


def _softened(picture: Bytes) -> Bytes:
    """A picture whose pixels are each the mean of as many as it was drawn finer."""
    blocks = picture.reshape(picture.shape[0] // FINER, FINER, picture.shape[1] // FINER, FINER, 4).astype(float)
    cover = blocks[..., 3:]
    shown = cover.mean(axis=(1, 3))
    colour = (blocks[..., :3] * cover).mean(axis=(1, 3)) / np.maximum(shown, 1e-9)
    return np.concatenate([colour, shown], axis=2).round().astype(np.uint8)


def portray_on(line: Connection) -> None:
    """Portray what is asked, each time with its number, until the window hangs up; None ends a row."""
    while True:
        try:
            number, job, dyes, size = line.recv()
            line.send((number, _tried(job, dyes, size)))
            line.send((number, None))
        except (EOFError, OSError):
            return


def _tried(job: Job, dyes: Dyes, size: tuple[int, int]) -> Bytes:
    """A portrait, of no height where there is none."""
    nothing = np.zeros((0, 0, 4), dtype=np.uint8)
    try:
        found = portrait(job, dyes, size)
    except InputError:
        return nothing
    except Exception:  # a fault of ours must not leave the shelf waiting for ever
        traceback.print_exc()
        return nothing
    return nothing if found is None else found


if __name__ == "__main__":
    apart.settle_in()
    os.nice(AFTER)
    portray_on(Connection(int(sys.argv[1])))
