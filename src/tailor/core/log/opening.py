"""Opening: an entry begun, with all that is known of a thing before anybody says how it came out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date

from tailor.core.bench.altered import REST
from tailor.core.bench.rates import Rates
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.log.constants import RATE
from tailor.core.log.entry import Entry, Took
from tailor.core.shop.leathers import Sort, Use, meant
from tailor.core.shop.progress import Worked
from tailor.core.shop.shop import Shop

LAST = "try"  # the step after which a thing is made
OF = {"mark": "mark", "cut": "cut", "mould": "mould", "glue": "glue_up", "pierce": "hole", "sew": "sewn",
      "hardware": "hardware", "edge": "edge", "edges": "edge", "trace": "trace", "carve": "carve",
      "bevel": "bevel", "strike": "strike"}  # the rate of a step, by how its key begins  # fmt: skip
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
