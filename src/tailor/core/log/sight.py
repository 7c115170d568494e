"""Sight: one job as the log shows it: its pieces, where its places are on them, and what can be measured of it."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
import shapely

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Role
from tailor.core.job import Job, draft
from tailor.core.log.entry import HEIGHTS, Place, Traced
from tailor.core.log.laid_over import STEP, held_against, laid_over
from tailor.core.log.measurable import Measurable, besides, measurable
from tailor.core.shop.agenda import Seen
from tailor.core.shop.drawn import drawn

CLOSED = "closed"  # what the whole case is called, as it is seen from the front
LOOP = 20.0  # mm under the top of a back that is a loop
APART = 14.0  # mm that it lies beside its pieces
FINE = 0.05  # mm that a traced outline may lose


@dataclass(frozen=True)
class Sight:
    """there: what can be measured that a constant is learned from; besides: what only says what went wrong."""

    job: Job
    made: Draft
    seen: tuple[Seen, ...]
    spots: Mapping[Place, Array]
    there: tuple[Measurable, ...]
    besides: tuple[Measurable, ...]


def sight(job: Job, made: Draft | None = None, printer: float = 1.0) -> Sight:
    """What is seen of a job. made: its draft, where it is there already; printer: as measurable has it.

    Raises InputError as draft does.
    """
    made = made or draft(job)
    seen = _with_closed(drawn(made.pieces), made)
    return Sight(job, made, seen, spots(made, seen), measurable(job, made, printer), besides(job, made))


def spots(made: Draft, seen: Sequence[Seen]) -> dict[Place, Array]:
    """Where each place is on what is seen, (2,) mm, from the tip to the mouth.

    They are on the whole case where it is seen closed, else on the largest piece.
    """
    piece = next((each for each in seen if each.name == CLOSED), None)
    piece = piece or max(seen, key=lambda each: shapely.Polygon(each.ring).area)
    low, high = float(piece.ring[:, 1].min()), float(piece.ring[:, 1].max())
    if made.plan is not None and piece.name == CLOSED:  # drawn as high as the object
        by = low - float(made.plan.outline[:, 1].min())
        low, high = made.low + by, made.top + by
    found = {}
    for place, share in HEIGHTS.items():
        y = low + (0.97 * share + 0.01) * (high - low)
        across = shapely.Polygon(piece.ring).intersection(shapely.box(-1e5, y - 0.5, 1e5, y + 0.5))
        middle = across.centroid if not across.is_empty else shapely.Point(*piece.ring.mean(axis=0))
        found[place] = np.array([middle.x, y])
    if made.rides:  # a loop of its own lies beside, else it is the top of the back
        loop = next((each for each in seen if "loop" in each.name), None)
        back = max((each for each in seen if each.name != CLOSED), key=lambda each: float(each.ring[:, 1].max()))
        top = float(back.ring[:, 1].max())
        over = back.ring[back.ring[:, 1] > top - LOOP]
        found[Place.LOOP] = np.array([over[:, 0].mean(), top - LOOP]) if loop is None else loop.ring.mean(axis=0)
    return found


def traced(outline: Array, made: Draft) -> tuple[Traced, int]:
    """An outline (n, 2) laid over the piece of a draft that it is of, and at how many places it is off.

    Raises InputError where it is like none of them.
    """
    rings = _rings(made)
    over = laid_over(outline, list(rings.values()))
    fine = shapely.get_coordinates(shapely.simplify(shapely.Polygon(over.ring), FINE))[:-1]
    ring = tuple((round(x, 3), round(y, 3)) for x, y in fine.tolist())
    return Traced(list(rings)[over.piece], ring, over.over), len(over.differences)


def over(
    them: Iterable[Traced], made: Draft, seen: Sequence[Seen]
) -> list[tuple[Traced, Array, tuple[tuple[Array, Array, float], ...]]]:
    """Pieces that were traced, where they lie on those that are seen: outline, stretches that are off, where, by mm."""
    cuts, lying = _rings(made), {piece.name: piece.ring for piece in seen}
    found = []
    for one in them:
        if one.piece not in cuts or one.piece not in lying:  # the job was drafted otherwise since
            continue
        by, ring = lying[one.piece][0] - cuts[one.piece][0], np.array(one.ring)
        edge, _, differences = held_against(ring, cuts[one.piece])
        stretches = tuple((_stretch(edge, each.along) + by, each.spot + by, each.by) for each in differences)
        found.append((one, ring + by, stretches))
    return found


def _rings(made: Draft) -> dict[str, Array]:
    """The outlines of leather of a draft, and of the whole case as it is closed, by name."""
    found = {piece.name: piece.cut for piece in made.pieces if piece.role is not Role.TEMPLATE}
    return found | ({} if made.plan is None else {CLOSED: made.plan.outline})


def _with_closed(seen: tuple[Seen, ...], made: Draft) -> tuple[Seen, ...]:
    """Pieces as they are seen, and beside them the case as it is closed, from the front."""
    if made.plan is None or not seen:
        return seen
    ring, corners = made.plan.outline, np.vstack([piece.ring for piece in seen])
    by = np.array([corners[:, 0].max() + APART, corners[:, 1].min()]) - ring.min(axis=0)
    return (*seen, Seen(CLOSED, ring + by))


def _stretch(edge: Array, along: tuple[float, float]) -> Array:
    """Places of a closed edge from one length along it to another, round its end where it must."""
    first, last = (round(at / STEP) for at in along)
    return edge[first : last + 1] if last >= first else np.vstack([edge[first:], edge[: last + 1]])
