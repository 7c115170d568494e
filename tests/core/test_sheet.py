"""A piece known by places strewn over it: where lines go through it, and what it holds, however narrow."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from tailor import demo
from tailor.core.carried.loft import Loft
from tailor.core.carried.stations import Shape, Station
from tailor.core.draft.piece import Piece
from tailor.core.job import draft
from tailor.core.placed.held import Carried, Thing
from tailor.core.placed.lies import Bent
from tailor.core.placed.path import Path
from tailor.core.together.assembled import Assembled
from tailor.core.together.crossed import crossed
from tailor.core.together.sheet import Sheet


def test_lines_go_through_a_tube_where_a_circle_says() -> None:
    """A sheet bent once round: lines meet it twice or not at all, and the flat points lie where they were bent from."""
    radius, long = 20.0, 60.0
    round_ = 2 * np.pi * radius
    cut = np.array([(0.0, 0.0), (round_, 0.0), (round_, long), (0.0, long)])
    sheet = Sheet(
        Piece("tube", 1, "body", 2.0, "grain", cut), Bent(across=Path(((round_, 2 * np.pi),), (0.0, -radius))), 12.0
    )
    r = np.random.default_rng(7)
    aside, up, turn = r.uniform(-30, 30, 40), r.uniform(5, 55, 40), r.uniform(0, 2 * np.pi, 40)
    ways = np.column_stack([np.cos(turn), np.zeros(40), np.sin(turn)])
    at = np.column_stack([-aside * np.sin(turn), up, aside * np.cos(turn)])
    for far, through, place, way, found in zip(aside, up, at, ways, crossed({"tube": sheet}, at, ways), strict=True):
        half = np.sqrt(max(radius**2 - far**2, 0.0))
        assert [depth for depth, *_ in found] == pytest.approx([-half, half] if half else [], abs=5e-3)
        for depth, _, flat in found:
            assert flat[1] == pytest.approx(through)
            assert sheet.lie(flat[None]).at[0] == pytest.approx(place + depth * way, abs=1e-3)


@pytest.mark.parametrize("name", ["spar-bag", "laser-level", "shears", "site-book"])
def test_lines_go_through_leather_where_its_triangles_say(name: str) -> None:
    """Lines at random through pieces of every kind: wherever their triangles are met on the leather, so is that."""
    whole, r = Assembled(draft(demo.job(name)).unmarked()), np.random.default_rng(3)
    met = 0
    for name, skin in whole.skins.items():
        k = r.choice(len(skin.triangles), 12)
        at = skin.placed.at[skin.triangles[k]].mean(axis=1) + r.normal(0, 3, (12, 3))
        ways = skin.placed.out[skin.triangles[k, 0]] + r.normal(0, 0.3, (12, 3))
        ways /= np.linalg.norm(ways, axis=1)[:, None]
        for place, way, found in zip(at, ways, crossed({name: whole.sheets[name]}, at, ways, 25.0), strict=True):
            told = np.array([depth for depth, *_ in found])
            for depth, flat in skin.crossed(place, way):
                on = whole.lies[name](flat[None])
                chord = np.linalg.norm(on.at[0] - place - depth * way)  # what its triangle parts from the leather by
                if abs(depth) < 20.0 and chord < 0.1 and abs(on.out[0] @ way) > 0.5:
                    met += 1
                    assert np.abs(told - depth).min(initial=np.inf) < 0.3
    assert met > 8 * len(whole.skins)


@pytest.mark.parametrize("wide", [3.0, 9.0, 40.0])
def test_leather_that_lies_where_something_narrow_lies_is_told(wide: float) -> None:
    """A rod half a millimetre into a wide panel, wherever on it, however narrow it is."""
    made = draft(demo.job("ridge-bag")).unmarked()
    front = Assembled(made).sheets["front"].places
    high, half = float(np.median(front[:, 2])), made.pieces[0].thickness / 2
    for across in np.linspace(-40.0, 40.0, 9):
        middle = (across, float(np.median(front[:, 1])), high - half - wide / 2 + 0.5)
        past = tuple(name for name in Assembled(made).lies if name != "front")
        rod = Thing("a rod", middle, (wide, 90.0, wide), past=past)
        (gap,) = Assembled(replace(made, held=(rod,))).gaps
        assert gap.gap == pytest.approx(-0.5, abs=0.02)


@pytest.mark.parametrize("long", [4.0, 10.0])
def test_leather_that_lies_where_a_collar_lies_is_told(long: float) -> None:
    """A thin board with a short collar that stands half a millimetre into a wide panel, wherever along it."""
    made = draft(demo.job("ridge-bag")).unmarked()
    foam = Assembled(made).sheets["front foam"]  # the front's innermost
    front, top = foam.places, float(np.median(foam.places[:, 2])) - foam.thickness / 2
    for up in np.linspace(-20.0, 20.0, 7):
        rows = [(-60.0, 2.0), (up - long / 2 - 0.5, 2.0), (up - long / 2, top + 0.5), (up + long / 2, top + 0.5),
                (up + long / 2 + 0.5, 2.0), (60.0, 2.0)]  # fmt: skip
        loft = Loft(tuple(Station(y, -40.0, 40.0, high, 2.0, Shape.SLAB) for y, high in rows))
        middle = float(np.median(front[:, 1]))
        held = Carried("a board", loft, (-np.inf, np.inf), at=(0.0, middle, 0.0))
        (gap,) = Assembled(replace(made, held=(held,))).gaps
        assert gap.gap == pytest.approx(-0.5, abs=0.04)
        assert gap.piece == "front foam"
