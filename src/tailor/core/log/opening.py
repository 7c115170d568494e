"""Opening: an entry begun, with all that is known of a thing before anybody says how it came out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

import numpy as np
import shapely

from tailor.core.bench.altered import REST
from tailor.core.bench.labour import Rates
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Fitted
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.log.constants import RATE
from tailor.core.log.entry import HEIGHTS, Entry, Place, Took
from tailor.core.shop.agenda import Seen
from tailor.core.shop.leathers import Sort, Use, meant
from tailor.core.shop.progress import Worked
from tailor.core.shop.shop import Shop

LAST = "try"  # the step after which a thing is made
OF = {"mark": "mark", "cut": "cut", "mould": "mould", "glue": "glue_up", "pierce": "hole", "sew": "sewn",
      "hardware": "hardware", "edge": "edge", "edges": "edge"}  # the rate of a step, by how its key begins  # fmt: skip
CLOSED = "closed"  # what the whole case is called, as it is seen from the front
LOOP = 20.0  # mm under the top of a back that is a loop
LEAST = 1.0  # minutes of work that say anything of a rate


def unwritten(shop: Shop) -> list[tuple[str, str]]:
    """What is made, and not written up: where it stands in an order, and what it is called."""
    written = {one.line for one in shop.logged}
    done = (worked for worked in shop.worked if worked.done and worked.id.endswith(f"/{LAST}"))
    return [(line, one.thing) for one in done if (line := one.id.rpartition("/")[0]) not in written]


def opened(id_: str, job: Job, shop: Shop, today: date) -> Entry:
    """An entry of one of a job, of the leather that is meant by it."""
    settings = job.settings
    thick, temper = settings.number("leather.thickness"), settings.word("leather.temper")
    sort = meant(shop.sorts, Use.BODY, thick, temper)
    return of_sort(Entry(id_, today, job, tannage=temper), sort)


def of_sort(entry: Entry, sort: Sort | None) -> Entry:
    """The entry with the leather it is of."""
    if sort is None:
        return replace(entry, leather="")
    return replace(entry, leather=sort.name, tannage=f"{sort.tannage}, {sort.temper}")


def of_line(id_: str, line: str, shop: Shop, today: date) -> Entry:
    """An entry of something that was ordered and is made: its job as it was ordered, and what its steps took.

    line: order, mark and which of several, parted by /. Raises InputError where the order is there no longer.
    """
    order_id, mark, _ = line.split("/", 2)
    order = next((order for order in shop.orders if order.id == order_id), None)
    found = None if order is None else next((each for each in order.lines if each.mark == mark), None)
    if found is None:
        raise InputError("its order is there no longer", "log", "open its job, and write it up from there")
    mine = [worked for worked in shop.worked if worked.done and worked.id.rpartition("/")[0] == line]
    ended = max((worked.ended.date() for worked in mine), default=today)
    return replace(opened(id_, found.job, shop, ended), line=line, took=took(mine, shop.rates))


def took(worked: Sequence[Worked], rates: Rates) -> tuple[Took, ...]:
    """What work took by its rate, and what the tables would have had it take; by the rates it was thought at."""
    usual, minutes = dict[str, float](), dict[str, float]()
    for one in worked:
        rate = OF.get(one.id.rpartition("/")[2].removeprefix(f"{REST} ").split(" ")[0])
        spent = one.minutes(one.ended)
        if rate is None or one.planned < LEAST or spent <= 0:
            continue
        share = getattr(Rates(), rate) / getattr(rates, rate)
        usual[rate] = usual.get(rate, 0.0) + one.planned * share
        minutes[rate] = minutes.get(rate, 0.0) + spent
    return tuple(Took(RATE + rate, usual[rate], minutes[rate]) for rate in usual)


def spots(made: Draft, seen: Sequence[Seen]) -> dict[Place, Array]:
    """Where each place is on what is seen, (2,) mm, from the tip to the mouth.

    They are on the whole case where it is seen closed, else on the largest piece.
    """
    piece = next((each for each in seen if each.name == CLOSED), None)
    piece = piece or max(seen, key=lambda each: shapely.Polygon(each.ring).area)
    low, high = float(piece.ring[:, 1].min()), float(piece.ring[:, 1].max())
    if isinstance(made, Fitted) and piece.name == CLOSED:  # drawn as high as the object
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
