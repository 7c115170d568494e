"""Pieces as they were made, photographed, and laid over the draft: what was planted is found at its place."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import pytest
import shapely

from tailor import demo
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Fitted
from tailor.core.draft.piece import Piece, Role
from tailor.core.errors import InputError
from tailor.core.job import draft
from tailor.core.log.laid_over import held_against, laid_over
from tailor.core.log.sight import over, sight, traced
from tailor.core.shop.drawn import drawn
from tailor.files import panels
from tailor.standins.camera import Shot, photograph, prism
from tests.sweeps import some

PIECES = (("radio", "front blank"), ("shears", "back"), ("spar-hook", "front blank"), ("stapler", "front"))


@cache
def pieces(name: str) -> tuple[Piece, ...]:
    return tuple(piece for piece in draft(demo.job(name)).pieces if piece.role is not Role.TEMPLATE)


def with_bump(ring: Array, at: float, by: float, wide: float) -> tuple[Array, Array]:
    """An outline with a bump (a dent, below 0) of so many mm round a share of its way; and where that is."""
    line = shapely.LinearRing(ring)
    lengths = np.arange(0, line.length, 0.5)
    points = shapely.get_coordinates(shapely.line_interpolate_point(line, lengths))
    along = np.roll(points, -1, axis=0) - np.roll(points, 1, axis=0)
    out = np.column_stack([along[:, 1], -along[:, 0]]) / np.hypot(*along.T)[:, None] * (1 if line.is_ccw else -1)
    far = np.abs((lengths - at * line.length + line.length / 2) % line.length - line.length / 2)
    height = by * np.where(far < wide / 2, np.cos(np.pi * far / wide) ** 2, 0.0)
    return points + out * height[:, None], points[int(far.argmin())]


def turned(ring: Array, angle: float) -> Array:
    spin = np.array([[np.cos(angle), -np.sin(angle)], [np.sin(angle), np.cos(angle)]])
    return np.asarray(ring @ spin.T)


def test_planted_differences_are_found_in_photos_and_none_besides(tmp_path: Path) -> None:
    random, found = np.random.default_rng(6), 0
    tried = some(range(6))
    for k in tried:
        job, name = PIECES[k % len(PIECES)]
        rings = [piece.cut for piece in pieces(job)]
        mine = next(n for n, piece in enumerate(pieces(job)) if piece.name == name)
        by, wide = float(random.choice([-1, 1]) * random.uniform(0.7, 1.4)), random.uniform(18, 40)
        made, spot = with_bump(rings[mine], random.uniform(), by, wide)
        lies = turned(made, random.uniform(-0.15, 0.15))
        lies = lies - (lies.min(axis=0) + lies.max(axis=0)) / 2 + np.array([148.5, 210.0])
        solid = prism(shapely.get_coordinates(shapely.simplify(shapely.Polygon(lies), 0.02))[:-1], 3.0, (92, 70, 48))
        (tmp_path / f"{k}.jpg").write_bytes(photograph([solid], Shot(seed=k), "a3"))
        laid = laid_over(panels.read(tmp_path / f"{k}.jpg", 3.0)[0], rings)
        near = [np.hypot(*(each.spot - spot)) < wide / 2 + 6 and each.by * by > 0 for each in laid.differences]
        found += any(near) and laid.piece == mine
        false = [each.by for each, there in zip(laid.differences, near, strict=True) if not there]
        assert all(abs(each) < 0.5 for each in false)
    assert found >= len(tried) - 1


@pytest.mark.parametrize("angle", some([0.0, 0.7, 2.0, 3.3, 5.1]))
@pytest.mark.parametrize("down", [False, True])
def test_however_a_piece_lies_it_is_brought_on_to_the_draft(angle: float, down: bool) -> None:
    ring = pieces("stapler")[0].cut
    made, spot = with_bump(ring, 0.3, 1.2, 30)
    laid = laid_over(turned(made * [-1, 1] if down else made, angle) + np.array([300, -40]), [ring])
    (one,) = laid.differences
    assert (laid.over, one.by) == (down, pytest.approx(1.2, abs=0.15))
    assert np.hypot(*(one.spot - spot)) < 4
    away = np.hypot(*(laid.edge - spot).T) > 30
    assert np.abs(laid.by[away]).max() < 0.12


def test_a_whole_edge_that_is_off_is_one_difference_and_its_side_is_told() -> None:
    ring = np.array([(0.0, 0.0), (90.0, 0.0), (90.0, 150.0), (0.0, 140.0)])
    side = np.array([[0, 0], [-2, 0], [-2, 0], [0, 0]])
    _, by, differences = held_against(ring, ring + side)
    (one,) = differences
    assert one.by == pytest.approx(2.0, abs=0.05)
    assert one.spot[0] == pytest.approx(88.0)
    assert 130 < (one.along[1] - one.along[0]) < 155
    assert by.min() > -0.25  # the end of the top edge goes with the side
    assert held_against(ring, ring)[2] == ()


def test_the_whole_case_as_it_is_closed_is_laid_over_its_plan() -> None:
    one = sight(demo.job("eaves-blade"))
    made = one.made
    assert isinstance(made, Fitted)
    bumped, spot = with_bump(made.plan.outline, 0.25, 1.3, 34)
    found, off = traced(turned(bumped, 0.4), made)
    assert (found.piece, off) == ("closed", 1)
    ((_, ring, stretches),) = over((found,), made, one.seen)
    closed = next(each for each in one.seen if each.name == "closed")
    by = closed.ring[0] - made.plan.outline[0]
    assert np.hypot(*(stretches[0][1] - by - spot)) < 4
    body = made.piece("body")
    assert np.ptp(ring[:, 0]) < 0.7 * np.ptp(body.cut[:, 0])  # it is folded


def test_what_is_another_thing_is_refused_and_what_is_traced_is_kept_where_it_lies() -> None:
    made = draft(demo.job("stapler"))
    with pytest.raises(InputError, match="like none of the pieces"):
        traced(np.array([(0.0, 0.0), (400.0, 0.0), (400.0, 30.0), (0.0, 30.0)]), made)
    bumped, spot = with_bump(made.piece("front").cut, 0.6, -1.0, 30)
    one, off = traced(turned(bumped, 1.0), made)
    assert (one.piece, off) == ("front", 1)
    seen = drawn(made.pieces)
    ((_, ring, stretches),) = over((one,), made, seen)
    front = next(each for each in seen if each.name == "front")
    assert shapely.Polygon(ring).hausdorff_distance(shapely.Polygon(front.ring)) < 1.4
    by = front.ring[0] - made.piece("front").cut[0]
    assert np.hypot(*(stretches[0][1] - by - spot)) < 4
    assert stretches[0][2] == pytest.approx(-1.0, abs=0.15)
