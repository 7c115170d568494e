"""Random plausible things that people carry, measured in each way as a beginner would."""

from __future__ import annotations

import numpy as np

from tailor.core.carried import block
from tailor.core.carried.stations import Shape, Station, Table, checked
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.job import Job
from tailor.core.settings import Settings


def _tenth(value: float) -> float:
    return round(float(value), 1)


def _block(r: np.random.Generator) -> Table:
    length, width = r.uniform(40, 170), r.uniform(18, 90)
    height = r.uniform(6, min(45, width))
    return block.block(*map(_tenth, (length, width, height)), edge=_tenth(r.choice([0, 1, 2, 3])))


def _bar(r: np.random.Generator) -> Table:
    return block.cylinder(_tenth(r.uniform(60, 240)), _tenth(r.uniform(8, 60)))


def _flat(r: np.random.Generator) -> Table:
    if r.random() < 0.5:
        return block.cards(_tenth(r.uniform(70, 110)), _tenth(r.uniform(45, 70)), _tenth(r.uniform(1, 20)))
    return block.book(_tenth(r.uniform(90, 220)), _tenth(r.uniform(70, 160)), _tenth(r.uniform(5, 35)))


def _blade(r: np.random.Generator) -> Table:
    """A blade with a handle, by a handful of caliper readings; its edge, point and grip marked."""
    long, grip, wide, thick = r.uniform(50, 200), r.uniform(85, 140), r.uniform(14, 50), r.uniform(0.6, 2.6)
    rows = [Station(0, 0, wide * r.uniform(0.05, 0.3), 0.3, 0.3, Shape.WEDGE)]
    for share in (0.15, 0.5, 1.0):
        rows.append(
            Station(_tenth(long * share), 0, _tenth(wide * min(1, 0.45 + 0.6 * share)), thick, thick, Shape.WEDGE)
        )
    inset, half = r.uniform(0, 5), r.uniform(6, 14)
    for up in (8.0, 8.0 + grip / 2, 8.0 + grip):
        rows.append(
            Station(_tenth(long + up), _tenth(inset), _tenth(inset + r.uniform(18, 32)), half, half, Shape.OVAL)
        )
    zones = (Zone(ZoneKind.EDGE, 0, _tenth(long)), Zone(ZoneKind.GRIP, _tenth(long + 8), _tenth(long + 8 + grip)))
    return Table(checked(rows), zones)


def _tool(r: np.random.Generator) -> Table:
    """A tool of any outline, its shapes as a hand would call them, zones marked or not."""
    count, long = r.integers(3, 7), r.uniform(70, 260)
    shape = (Shape.OVAL, Shape.SLAB)[int(r.integers(2))]
    wide, thick = r.uniform(14, 60), r.uniform(3, 16)
    rows = []
    for k in range(count):
        half = wide / 2 * r.uniform(0.6, 1.0)
        middle, high = r.uniform(-3, 3), thick * r.uniform(0.6, 1.0)
        rows.append(Station(_tenth(long * k / (count - 1)), _tenth(middle - half), _tenth(middle + half), _tenth(high),
                            _tenth(high), shape))  # fmt: skip
    zones = (Zone(ZoneKind.GRIP, _tenth(0.55 * long), _tenth(long)),) if long > 160 and r.random() < 0.5 else ()
    return Table(checked(rows), zones, blunt=bool(r.random() < 0.5))


KINDS = (_block, _bar, _flat, _blade, _tool)


def thing(number: int) -> Table:
    """The thing of a number: always the same one."""
    r = np.random.default_rng(number)
    return KINDS[number % len(KINDS)](r)


def job_of(number: int, style: str = "two-panel", **pinned: float | str) -> Job:
    """A job for it, with nothing settled but what is given (keys with __ for their point)."""
    table = thing(number)
    settings = Settings({key.replace("__", "."): value for key, value in pinned.items()})
    return Job(f"thing {number}", style, table.stations, table.zones, settings).measured(table)
