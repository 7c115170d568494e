"""Random lofts and settings that a maker could really have, for property tests."""

from __future__ import annotations

from dataclasses import replace

from hypothesis import strategies as st
from shapely.geometry import box

from tailor import demo
from tailor.core.carried.stations import Shape, Station, Table
from tailor.core.carried.zones import Zone, ZoneKind
from tailor.core.draft.draft import Draft
from tailor.core.job import Job, draft
from tailor.core.settings import Settings
from tailor.core.shell.region import Edges
from tailor.core.shell.taut import Slope

STEEP = Slope(1.55)  # leather may come down all but upright


def between(left: float, right: float, low: float = -60.0, high: float = 400.0) -> Edges:
    """A seam with straight sides, far past both ends of any object."""
    return Edges(box(left, low, right, high))


CASES = ("eaves-blade", "radio", "shears", "spar-hook", "whetstone")


def case(name: str) -> Job:
    """A demo job that is fitted round its object; the stone between two taut panels with a welt."""
    if name != "whetstone":
        return demo.job(name)
    settings = demo.job(name).settings.release("panel.lining")
    return replace(demo.job(name), style="two-panel", settings=settings)


def typed(job: Job, **values: str) -> Job:
    """The job with settings typed. Keys are written with __ for the point."""
    for key, text in values.items():
        job = job.typed(key.replace("__", "."), text)
    return job


def made_with(name: str, **pinned: str) -> tuple[Job, Draft]:
    """One of the cases with further settings typed, and its draft."""
    job = typed(case(name), **pinned)
    return job, draft(job)


def sizes(low: float, high: float) -> st.SearchStrategy[float]:
    return st.floats(low, high).map(lambda v: round(v, 3))


@st.composite
def sections(draw: st.DrawFn, symmetric: bool = False) -> Station:
    """One section of any shape, alike front and back or not."""
    shape = draw(st.sampled_from(list(Shape)))
    width, front = draw(sizes(12, 60)), draw(sizes(0.5, 12))
    back = front if symmetric else draw(sizes(0.5, 12))
    corner = draw(sizes(0, min(width / 2, front, back))) if shape is Shape.SLAB else 0.0
    x = draw(sizes(-10, 10))
    return Station(0.0, x, x + width, front, back, shape, corner)


@st.composite
def jobs(draw: st.DrawFn, symmetric: bool = True) -> Job:
    """A blade-like object of four to seven stations, with settings that a maker might pin."""
    count = draw(st.integers(4, 7))
    length = draw(sizes(90, 260))
    widest, thickest = draw(sizes(18, 55)), draw(sizes(1.5, 6))
    shape = draw(st.sampled_from([Shape.WEDGE, Shape.DIAMOND, Shape.OVAL, Shape.SLAB]))
    rows = []
    for k in range(count):
        share = k / (count - 1)
        width = widest * (0.25 + 0.75 * min(1.0, 2.2 * share)) * draw(st.floats(0.95, 1.05))
        front = thickest * (0.3 + 0.7 * min(1.0, 2 * share))
        back = front if symmetric else front * draw(st.floats(0.5, 1.5))
        rows.append(Station(share * length, 0.0, width, front, back, shape))
    pinned: dict[str, float | str] = {
        "leather.thickness": draw(sizes(1.5, 4)),
        "leather.neutral": draw(sizes(0.3, 0.6)),
        "fit.clearance": draw(sizes(0, 1.5)),
        "hand": draw(st.sampled_from(["right", "left"])),
    }
    if draw(st.booleans()):
        pinned["seam.pitch"] = draw(sizes(3, 6))
    return Job("Drawn", "folded-sheath", tuple(rows), (Zone(ZoneKind.EDGE, 0, 0.7 * length),), Settings(pinned))


@st.composite
def cases(draw: st.DrawFn, moulded: bool | None = None) -> Job:
    """An object for two panels or a flat back, that a straight ridge stays on, with settings a maker might pin."""
    count, length = draw(st.integers(4, 6)), draw(sizes(80, 180))
    shape = draw(st.sampled_from([Shape.OVAL, Shape.SLAB, Shape.DIAMOND]))
    wide, thick = draw(sizes(18, 50)), draw(sizes(2, 9))
    rows = []
    for k in range(count):
        share = min(1.0, 0.55 + 0.9 * k / (count - 1))
        half = wide / 2 * share * draw(st.floats(0.93, 1.07))
        front = thick * (0.4 + 0.6 * share) * draw(st.floats(0.95, 1.05))
        back = front * draw(st.sampled_from([1.0, 1.0, 0.8, 1.2]))
        middle = draw(st.floats(-1.5, 1.5))
        rows.append(Station(k / (count - 1) * length, middle - half, middle + half, front, back, shape))
    taut = not moulded if moulded is not None else draw(st.booleans())
    pinned: dict[str, float | str] = {
        "leather.thickness": draw(sizes(1.2, 3)),
        "fit.clearance": draw(sizes(0.3, 1.5)),
        "mould.method": "taut" if taut else draw(st.sampled_from(["fingers", "bone", "boards"])),
        "hand": draw(st.sampled_from(["right", "left"])),
    }
    style = draw(st.sampled_from(["two-panel", "flat-back"]))
    return Job("Drawn", style, tuple(rows), (Zone(ZoneKind.GRIP, 0.6 * length, length),), Settings(pinned))


def as_csv(table: Table) -> str:
    """A station table as a maker would save it, its columns in another order and its rows upside down."""
    lines = ["# unit: mm", *(f"# zone: {z.kind} {z.low!r} .. {z.high!r}" for z in table.zones)]
    lines.append("shape,corner,y,x_spine,x_seam,back,front")
    for s in reversed(table.stations):
        sizes_ = (s.corner, s.y, s.x_spine, s.x_seam, s.back, s.front)
        lines.append(",".join([s.shape, *map(repr, sizes_)]))
    return "\n".join(lines) + "\n"
