"""Speed, as ratios against a named floor measured in the same run: python -m bench."""

from __future__ import annotations

import subprocess
import sys
import time
from collections.abc import Callable
from dataclasses import replace

import numpy as np
import shapely

from bench import flat, log, photo, shop, strip, turned
from tailor import demo
from tailor.core.carried.stations import Station
from tailor.core.cut.laying import Turns
from tailor.core.draft.draft import Draft
from tailor.core.job import Job, draft, judge
from tailor.desk.start import application

STRIP = 5.0  # s
ARC = 16  # segments to a quarter turn, as the buffers of a drawing need them


def best(*works: Callable[[], object], rounds: int = 20) -> list[float]:
    """Least seconds of each call. They take turns, so that what else the machine does falls on all alike."""
    took: list[list[float]] = [[] for _ in works]
    for _ in range(rounds):
        for work, times in zip(works, took, strict=True):
            start = time.perf_counter()
            work()
            times.append(time.perf_counter() - start)
    return [min(times) for times in took]


def floor_of(made: Draft) -> Callable[[], object]:
    """The bare Shapely calls for a wrap of the same rows: grow, join, hull, join, grow, measure, on arrays."""
    rows, sections, leather = made.shell.rows, made.shell.wrapped.sections, made.shell.leather
    things = shapely.polygons([sections.outline(k) for k in range(len(rows))])
    x_welt, half = made.standoff.x_welt, made.shell.welt / 2
    centres = shapely.points(sections.x_spine - made.shell.clearance + leather.inside_radius, np.zeros(len(rows)))
    edges = shapely.linestrings([[(x, -half), (x, half)] for x in x_welt])
    slabs = shapely.box(x_welt, -half, x_welt + 20, half)

    def wrap() -> object:
        grown = shapely.buffer(things, made.shell.clearance, quad_segs=ARC)
        discs = shapely.buffer(centres, leather.inside_radius, quad_segs=ARC)
        kernel = shapely.convex_hull(shapely.union(shapely.union(grown, discs), edges))
        return shapely.length(shapely.buffer(shapely.union(kernel, slabs), leather.offset, quad_segs=ARC))

    return wrap


def tenfold(job: Job) -> Job:
    """The same object measured at ten times as many stations."""
    ys = np.unique(
        np.concatenate([np.linspace(a.y, b.y, 11) for a, b in zip(job.stations, job.stations[1:], strict=False)])
    )
    sizes = job.loft.sizes(ys)
    below = np.clip(np.searchsorted(job.loft.ys, ys, side="right") - 1, 0, len(job.stations) - 1)
    stations = tuple(
        Station(float(y), float(x), float(x + w), float(f), float(b), job.stations[k].shape)
        for y, (x, w, f, b, _), k in zip(ys, sizes, below, strict=True)
    )
    return replace(job, stations=stations)


LADEN = (
    "loop.landing=sewn", "loop.foot=snap 10", "keeper.way=over", "keeper.button=snap 10", "seam.rivets=rapid rivet 7",
    "belt.width=30", "belt.thickness=3", "mouth.y=170",
)  # fmt: skip

OPEN = """
import time; start = time.perf_counter()
from PyQt6.QtWidgets import QApplication, QMainWindow
app = QApplication([])
window = QMainWindow(); window.resize(1280, 800); window.show(); app.processEvents()
print(time.perf_counter() - start)
"""
OURS = """
import time; start = time.perf_counter()
from PyQt6.QtWidgets import QApplication
from tailor.desk.start import Start
begun = Start(demo_name="eaves-blade"); app = QApplication.instance(); app.processEvents()
print(time.perf_counter() - start)
while begun.bench is None:
    app.processEvents()
    time.sleep(0.002)
app.processEvents()
print(time.perf_counter() - start)
begun.close()
"""


def started(script: str) -> list[float]:
    """Least seconds of each time that a script prints."""
    took = []
    for _ in range(7):
        done = subprocess.run([sys.executable, "-c", script], capture_output=True, text=True, check=True)
        took.append([float(said) for said in done.stdout.split()])
    return [min(times) for times in zip(*took, strict=True)]


def main() -> None:
    job = demo.job()
    made, many = draft(job), tenfold(job)
    made_many = draft(many)
    floor, whole, ledger = best(floor_of(made), lambda: draft(job), lambda: judge(job, made))
    laden = job
    for each in LADEN:
        laden = laden.typed(*each.split("=", 1))
    (whole_laden,) = best(lambda: draft(laden))
    floor_many, whole_many = best(floor_of(made_many), lambda: draft(many))
    print(f"shapely wrap of the {len(made.shell.rows)} rows of the demo     {1e3 * floor:7.1f} ms   floor")
    print(f"full redraft of the demo                  {1e3 * whole:7.1f} ms   {whole / floor:5.2f} × floor   (aim 3)")
    print(
        f"with loop, snaps, keeper and rivets       {1e3 * whole_laden:7.1f} ms   "
        f"{whole_laden / floor:5.2f} × floor   (aim 3)"
    )
    print(f"its ledger                                {1e3 * ledger:7.1f} ms   {ledger / floor:5.2f} × floor")
    rows = len(made_many.shell.rows) / len(made.shell.rows)
    print(
        f"full redraft at 10 × stations             {1e3 * whole_many:7.1f} ms   {whole_many / floor_many:5.2f} × floor"
    )
    print(f"  growth of the redraft {whole_many / whole:5.2f} × for 10 × stations, {rows:.1f} × rows   (aim 10)")
    before = None
    for rows_, columns in flat.SIZES:
        count, ours, theirs, steps = flat.flattened(rows_, columns)
        print(f"libigl arap, {count} triangles, {steps:3d} steps  {1e3 * theirs:7.1f} ms   floor")
        print(
            f"flattened to as low an energy             {1e3 * ours:7.1f} ms   {ours / theirs:5.2f} × floor   (aim 0.6)"
        )
        if before is not None:
            print(f"  growth {ours / before[1]:5.2f} × for {count / before[0]:.1f} × triangles")
        before = count, ours
    for name in flat.FORMED:
        took, least = flat.dragged(name)
        print(f"one factor and solve, fine, {name:<12}  {1e3 * least:7.1f} ms   floor")
        print(
            f"  dragged: redraft, flattening and ledger {1e3 * took:7.1f} ms   {took / least:5.2f} × floor   "
            f"{1 / took:4.0f} a second (aim 15)"
        )
    app = application()  # noqa: F841  kept while there are windows
    for name in ("eaves-blade", *flat.FORMED):
        print(f"the window follows a hand on the {name:<12} {flat.followed(name):5.0f} redraws a second (aim 15)")
    seen, traced = best(*photo.works(), rounds=6)
    print(f"opencv decode, markers, warp, 12 MP       {1e3 * seen:7.1f} ms   floor")
    print(f"the photo traced                          {1e3 * traced:7.1f} ms   {traced / seen:5.2f} × floor   (aim 6)")
    print(f"  longest wait of the window meanwhile    {1e3 * photo.longest_wait():7.1f} ms")
    copy, frame, count = turned.works()
    copied, shown = best(copy, frame)
    print(f"copying a picture of {turned.SIZE[0]} × {turned.SIZE[1]}           {1e3 * copied:7.1f} ms   floor")
    print(
        f"drawing {count} triangles in the round      {1e3 * shown:7.1f} ms   "
        f"{shown / copied:5.1f} × floor   (aim 30 ms)"
    )
    for name in ("laser-level", "eaves-blade", "leggett"):
        drafted, judged = best(*turned.checked(name), rounds=5)
        print(
            f"{name:<12} put together and judged      {1e3 * (judged - drafted):7.1f} ms   "
            f"{judged / drafted - 1:5.2f} × its draft   (aim 1)"
        )
    for share in (0.5, 0.65):
        look, first, dragged, laid, count = shop.laid_out(share)
        print(f"shapely's look at {count} pieces laid          {1e3 * look:7.1f} ms   floor")
        print(f"  a first layout, {share:.0%} of a side asked   {1e3 * first:7.1f} ms   {first / look:5.2f} × floor")
        print(f"  after five seconds there lie            {laid:7.1%}")
        print(f"  one dragged and the rest laid again     {1e3 * dragged:7.1f} ms   {dragged / look:5.2f} × floor")
    for turns, said, aim in ((strip.ALONG, "two ways round", 1.0), (Turns(), "any way round", 0.96)):
        for count in (20, 50, 100):
            dense, ours_ = strip.compared(count, turns, STRIP)
            print(f"an open strip engine, {count:3} pieces, {said:<14}{dense:7.3f} dense in {STRIP:.0f} s   floor")
            ratio = ours_ / dense
            print(f"  ours in as many seconds                 {ours_:7.3f}   {ratio:5.2f} × floor   (aim {aim})")
    plan = shop.planned(12)
    print(f"a look at a plan of {plan.steps} steps             {1e3 * plan.look:7.1f} ms   floor")
    for said, seconds, aim in (
        ("the first plan", plan.first, 100), ("after a slip, in its order", plan.in_order, 25),
        (f"after a slip, {plan.moved:.0f} moved, {plan.most} at worst ({plan.forced} must)", plan.few, 400),
        ("how sure its dates are", plan.chance, 2000),
    ):  # fmt: skip
        print(f"  {said:40}{1e3 * seconds:7.1f} ms   {seconds / plan.look:5.2f} × floor   (aim {aim} ms)")
    print(f"  of its cost five seconds save           {plan.gained:7.0%}")
    print(f"  its cost over the reference search's    {plan.reference:7.2f}   (aim 1.05 at the most)")
    for orders, most in ((12, 1.05), (4, 1.12), (1, 1.03)):
        over = shop.finished(orders)
        print(f"  hours until {orders:2} things are done          {over:7.3f} × the fewest there can be   (aim {most})")
    log.report()
    (empty,), (opened, ready) = started(OPEN), started(OURS)
    print(f"empty PyQt6 window                        {1e3 * empty:7.1f} ms   floor")
    print(f"Tailor's window on the screen             {1e3 * opened:7.1f} ms   {opened / empty:5.2f} × floor   (aim 3)")
    print(f"  with the demo drafted and in hand       {1e3 * ready:7.1f} ms   {ready / empty:5.2f} × floor")


if __name__ == "__main__":
    main()
