"""Flattening against another program, and redrafting with it, in the window too."""

from __future__ import annotations

import time
from collections.abc import Callable

import igl
import numpy as np
from PyQt6.QtCore import QEventLoop, QTimer

from tailor import demo
from tailor.core.draft.draft import Draft
from tailor.core.job import draft, judge
from tailor.core.shell.flatten import Sheet
from tailor.core.shell.formed import grid_triangles
from tailor.desk.window import Window

SIZES = ((60, 102), (125, 201))  # rows and columns of meshes of about 12 000 and 50 000 triangles
FORMED = ("spar-hook", "shears", "radio", "stapler")


def bulge(rows: int, columns: int) -> np.ndarray:
    """A panel of 80 × 200 mm moulded over something long and 20 mm high, as places (n, 3)."""
    x, y = np.meshgrid(np.linspace(-40, 40, rows), np.linspace(0, 200, columns))
    z = 20 * np.exp(-((x / 18) ** 2)) * (0.2 + np.sin(np.pi * y / 200) ** 2)
    return np.column_stack([x.ravel(), y.ravel(), z.ravel()])


def flattened(rows: int, columns: int) -> tuple[int, float, float, int]:
    """Triangles, seconds of ours and of the other program's at an energy as low, and the steps it took.

    The other program is given our starting place for nothing, and stops at the first of a growing count of steps
    that brings its energy within a thousandth of ours.
    """
    places, triangles = bulge(rows, columns), grid_triangles(columns, rows)
    ours = theirs = np.inf
    for _ in range(3):
        begun = time.perf_counter()
        laid = Sheet(places, triangles).laid()
        ours = min(ours, time.perf_counter() - begun)
    sheet = Sheet(places, triangles)
    z = sheet.placing()(sheet.unfolded())
    start, held = np.column_stack([z.real, z.imag]), np.zeros(1, dtype=np.int32)
    for steps in (10, 15, 20, 30, 40, 60, 80, 120, 160, 240, 400):
        made = igl.ARAPData()
        made.max_iter = steps
        begun = time.perf_counter()
        igl.arap_precomputation(places, triangles.astype(np.int64), 2, held, made)
        found = igl.arap_solve(start[:1].copy(), made, start.copy())
        theirs = time.perf_counter() - begun
        if sheet.turned(found @ [1.0, 1.0j])[1] < 1.001 * laid.energy:
            break
    return len(triangles), ours, theirs, steps


def floor_of(made: Draft) -> Callable[[], object]:
    """The least that flattening a draft's panels anew takes: one factor and one solve for each that differs."""
    sheets = {id(p.sheet): p for p in made.formed}.values()

    def once() -> object:
        return [Sheet(p.places.reshape(-1, 3), p.triangles).laid(p.laid.uv, most=1) for p in sheets]

    return once


def dragged(name: str, moves: int = 20) -> tuple[float, float]:
    """Seconds of one redraft and its ledger while a measure is dragged, and of its flattening's floor."""
    job = demo.job(name)
    made = draft(job)
    floor, took = floor_of(made), []
    for k in range(moves):
        moved = job.typed("fit.clearance", f"{0.5 + 0.02 * k:.2f}mm")
        begun = time.perf_counter()
        made = draft(moved, made, rough=True)
        judge(moved, made)
        took.append(time.perf_counter() - begun)
    least = []
    for _ in range(5):
        begun = time.perf_counter()
        floor()
        least.append(time.perf_counter() - begun)
    return float(np.median(took)), min(least)


def followed(name: str, seconds: float = 3.0) -> float:
    """Redraws a second of the whole window while a measure is dragged, some thirty moves a second.

    The application must be there.
    """
    shown = Window(demo.job(name))
    shown.resize(1280, 800)
    shown.show()
    moves, redraws, loop = iter(range(10**6)), list[float](), QEventLoop()
    shown.bench.drafted.connect(lambda: redraws.append(time.perf_counter()))
    hand = QTimer(interval=30)

    def move() -> None:
        at = 0.5 + 0.01 * (next(moves) % 60)
        shown.bench.type("fit.clearance", f"{at:.2f}mm", "drag", joins="drag")

    hand.timeout.connect(move)
    hand.start()
    while not redraws:  # the drafting process is there
        loop.processEvents(QEventLoop.ProcessEventsFlag.WaitForMoreEvents)
    redraws.clear()
    QTimer.singleShot(round(1e3 * seconds), loop.quit)
    loop.exec()
    hand.stop()
    shown.bench.clean = shown.bench.job
    shown.close()
    return len(redraws) / seconds
