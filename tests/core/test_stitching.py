"""Stitching: holes that meet whatever way round they go, and thread against a walk of the needle through the stack."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from tailor.core.draft.draft import Draft
from tailor.core.draft.stitch.holes import Edge, cornered, from_the_middle, joined, laid_round, turning
from tailor.core.errors import InputError
from tailor.core.fairing import Line
from tailor.core.job import Job, draft, judge
from tailor.core.leather.stitching import MAKINGS, METHODS, TAIL, WHIPS, thread_length
from tailor.core.settings import Settings
from tests.lofts import CASES, case, typed
from tests.sweeps import about

Point = tuple[float, float, float]  # along the seam, out over the edge, down from the front


def walked(path: list[Point]) -> float:
    return float(np.linalg.norm(np.diff(np.array(path), axis=0), axis=1).sum())


def saddle(at: np.ndarray, deep: np.ndarray, margin: float) -> float:
    """Two needles change sides at every hole."""
    front, back = [(at[0], 0.0, 0.0)], [(at[0], 0.0, 0.0), (at[0], 0.0, deep[0])]
    for s, h in zip(at[1:], deep[1:], strict=True):
        front += [(s, 0.0, 0.0), (s, 0.0, h)]
        back += [(s, 0.0, h), (s, 0.0, 0.0)]
        front, back = back, front
    return walked(front) + walked(back)


def locked(at: np.ndarray, deep: np.ndarray, margin: float) -> float:
    """Top and bobbin meet half way down."""
    top = [p for s, h in zip(at, deep, strict=True) for p in ((s, 0, 0), (s, 0, h / 2), (s, 0, 0))]
    low = [p for s, h in zip(at, deep, strict=True) for p in ((s, 0, h), (s, 0, h / 2), (s, 0, h))]
    return walked(top) + walked(low)


def running(at: np.ndarray, deep: np.ndarray, margin: float) -> float:
    """In and out to the end, whipped over it, back in the gaps, and whipped over the beginning."""
    path: list[Point] = []
    down = True
    for way in (1, -1):
        for s, h in zip(at[::way], deep[::way], strict=True):
            path += [(s, 0.0, 0.0 if down else h), (s, 0.0, h if down else 0.0)]
            down = not down
        end, h = (at[-1], deep[-1]) if way == 1 else (at[0], deep[0])
        here, there = (0.0, h) if down else (h, 0.0)
        over = end + way * margin
        path += WHIPS * [(over, 0.0, here), (over, 0.0, there), (end, 0.0, there), (end, 0.0, here)]
    return walked(path)


def whipped(at: np.ndarray, deep: np.ndarray, margin: float) -> float:
    path: list[Point] = [(at[0], 0, 0), (at[0], 0, deep[0])]
    for (s, h), (t, d) in zip(zip(at, deep, strict=True), zip(at[1:], deep[1:], strict=True), strict=False):
        path += [(s, margin, h), (s, margin, 0), (t, 0, 0), (t, 0, d)]
    return walked(path)


def crossed(at: np.ndarray, deep: np.ndarray, margin: float) -> float:
    """Two needles from beneath, each over to the gap, down, and up through the other edge's next hole."""
    total = 0.0
    for side in (-1.0, 1.0):
        path: list[Point] = [(at[0], side * margin, deep[0]), (at[0], side * margin, 0)]
        for (s, _), (t, h) in zip(zip(at, deep, strict=True), zip(at[1:], deep[1:], strict=True), strict=False):
            path += [((s + t) / 2, 0, 0), ((s + t) / 2, 0, h), (t, -side * margin, h), (t, -side * margin, 0)]
            side = -side
        total += walked(path)
    return total


WALKS: dict[str, Callable[[np.ndarray, np.ndarray, float], float]] = {
    "saddle": saddle, "awl": locked, "machine": locked, "running": running, "whip": whipped, "lacing": whipped,
    "baseball": crossed,
}  # fmt: skip


@pytest.mark.parametrize("name", METHODS)
@settings(max_examples=about(25))
@given(st.integers(7, 90), st.floats(2, 7), st.floats(1, 14), st.floats(0.5, 1), st.floats(2.5, 8))
def test_thread_is_as_long_as_its_way_through_the_stack(
    name: str, count: int, chord: float, deep: float, thinned: float, margin: float
) -> None:
    at = chord * np.arange(count)
    depth = deep * np.linspace(1, thinned, count)
    said = thread_length(METHODS[name], depth, chord, margin, back=0, wrapped=0) - METHODS[name].tails * TAIL
    assert said == pytest.approx(WALKS[name](at, depth, margin), rel=0.02)
    more = thread_length(METHODS[name], depth, chord, margin, back=2, wrapped=2) - METHODS[name].tails * TAIL
    assert more > said * (1 + 1.9 / (count - 1)) + 4 * margin


def bent(lengths: list[float], turns: list[float], radius: float) -> Line:
    """An edge of straight runs and corners that turn outward, in turn."""
    heading, at = -np.pi / 2, np.array([0.0, 0.0])
    points = [at]
    for length, turn in zip(lengths, [*turns, 0.0], strict=True):
        way = np.array([np.cos(heading), np.sin(heading)])
        points += [at + s * way for s in np.linspace(0, length, max(int(length * 4), 2))[1:]]
        at = points[-1]
        middle = at + radius * np.array([np.sin(heading), -np.cos(heading)])
        for part in np.linspace(0, turn, max(int(radius * turn * 4), 2))[1:] if turn else ():
            points.append(middle + radius * np.array([-np.sin(heading - part), np.cos(heading - part)]))
        heading, at = heading - turn, points[-1]
    return Line(np.array(points))


@settings(max_examples=about(40))
@given(
    st.lists(st.floats(25, 90), min_size=3, max_size=3), st.lists(st.floats(0.5, 1.6), min_size=2, max_size=2),
    st.floats(9, 25), st.floats(-4, 8), st.floats(2.8, 5), st.booleans(),
)  # fmt: skip
def test_a_strip_laid_round_an_edge_meets_it_hole_for_hole(
    lengths: list[float], turns: list[float], radius: float, further: float, pitch: float, odd: bool
) -> None:
    assume(abs(further) > 0.1)
    line = bent(lengths, turns, radius)
    edge = cornered(Edge(line, (0.0, line.length)))
    assume(len(edge.anchors) == 6)
    strip = laid_round(edge, further)
    assert strip.anchors[-1] - line.length == pytest.approx(sum(turns) * further, abs=0.05)
    assert turning(line, 0.0, line.length) == pytest.approx(sum(turns), abs=1e-3)
    on_edge, on_strip = joined([edge, strip], pitch, odd)
    assert len(on_edge.at) == len(on_strip.at)
    if odd:
        assert len(on_edge.at) % 2
    for holes, of in ((on_edge, edge), (on_strip, strip)):
        chords = np.hypot(*np.diff(holes.points, axis=0).T)
        for a, b in zip(of.anchors, of.anchors[1:], strict=False):
            within = (holes.at[:-1] > a - 1e-6) & (holes.at[1:] < b + 1e-6)
            assert np.ptp(chords[within]) < 0.02
    out = shapely.LineString(line.dense(0, line.length, 0.1)).offset_curve(further, quad_segs=64)
    landed = shapely.get_coordinates(shapely.line_interpolate_point(out, on_strip.at))
    wanted = on_edge.points + further * line.normal(on_edge.at)
    assert np.hypot(*(landed - wanted).T).max() < 0.1


def test_two_needles_on_one_thread_leave_two_ends() -> None:
    """Walked stitch by stitch: each needle goes through every hole but the first, which the thread's middle lies in."""
    deep, chord = np.array([4.0, 6.0, 5.0, 7.0]), 3.5
    walked = deep[0] + sum(2 * (chord + depth) for depth in deep[1:])
    assert thread_length(METHODS["saddle"], deep, chord, 3.0, 0.0, 0) == pytest.approx(walked + 2 * TAIL)


def test_from_the_middle_outward_both_halves_are_alike() -> None:
    line = bent([60, 40, 60], [1.2, 1.2], 15)
    holes = joined([from_the_middle(Edge(line, (4.0, line.length - 4.0)))], 3.3)[0]
    assert len(holes.at) % 2
    middle = len(holes.at) // 2
    assert holes.at[middle] == pytest.approx(line.length / 2)
    assert np.diff(holes.at) == pytest.approx(np.diff(holes.at)[::-1], abs=0.05)


def test_what_cannot_be_joined_is_said() -> None:
    line = bent([40, 30, 40], [1.5, 1.5], 10)
    one, other = Edge(line, (0.0, line.length)), Edge(line, (0.0, 30.0, line.length))
    with pytest.raises(InputError, match="corners"):
        joined([one, other], 4.0)
    with pytest.raises(InputError, match="no length is left"):
        laid_round(cornered(one), -12.0)


@pytest.mark.parametrize("method", METHODS)
def test_every_school_of_stitch_drafts_and_says_what_it_takes(method: str, eaves: Job, sheath: Draft) -> None:
    job = eaves.typed("stitch.method", method)
    made = draft(job)
    seam = made.seams[0]
    assert seam.method == method
    assert made.reasons["seam.count"].value == seam.count == len(made.front.holes.at)
    assert seam.seconds == pytest.approx(METHODS[method].seconds * (seam.count - 1 + 2 + 1))
    if METHODS[method].odd:
        assert seam.count % 2
    grave = {v.name: v for v in judge(job, made)}
    assert (grave["Stitch suits the seam"].ruling == "stop") == METHODS[method].side_by_side
    # the welt is thinned towards the fold, and so is what the thread crosses
    assert made.profile.heights.sum(axis=1)[0] == pytest.approx(made.stack.height)
    assert made.profile.heights.sum(axis=1)[-1] < made.stack.height
    (layer, low, high, share), *_ = made.profile.skives
    assert layer == "welt"
    assert 0 < low < high <= seam.length + 1e-6
    assert 0 <= share < 1


@pytest.mark.parametrize("name", CASES)
def test_marked_on_the_front_only_the_rest_is_pierced_through(name: str) -> None:
    job = case(name)
    every, front = draft(job), draft(job.typed("stitch.marks", "front").typed("stitch.holes", "drill"))
    holed_ = [p.name for p in front.pieces if any(h.seam == "main" for h in p.holes)]
    assert len(holed_) == 1
    assert {h.edge for p in front.pieces for h in p.holes} <= {"front", "tab"}
    assert front.seams[0].count == every.seams[0].count
    assert front.value("seam.hole") == pytest.approx(MAKINGS["drill"].wide * front.value("stitch.thread"))
    wander = {v.name: v for v in judge(job, every)}["Back follows the front"]
    truer = {v.name: v for v in judge(job.typed("stitch.holes", "drill"), front)}["Back follows the front"]
    assert truer.value < wander.value


def test_wrong_thread_hole_and_machine_are_told(eaves: Job) -> None:
    def said(**settings: str) -> dict[str, str]:
        job = typed(replace(eaves, settings=Settings()), **settings)
        return {v.name: v.ruling.value for v in judge(job, draft(job))}

    assert said()["Thread suits the spacing"] == "ok"
    assert said(stitch__thread="2mm")["Thread suits the spacing"] != "ok"
    assert said(stitch__thread="1.5mm", seam__hole="1mm")["Thread goes through the hole"] == "stop"
    assert said(stitch__thread="0.4mm")["Thread suits the spacing"] == "look"
    assert "Machine takes the seam" not in said()
    assert said(stitch__method="machine")["Machine takes the seam"] == "ok"
    thick = said(stitch__method="machine", stitch__bed="post", leather__thickness="5mm", stitch__holes="needle")
    assert thick["Machine takes the seam"] == "stop"
    assert said(stitch__method="running", stitch__count="odd")["Stitch suits the seam"] == "ok"
