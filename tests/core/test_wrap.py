"""The wrap against a second way of working it: unions, hulls and buffers of polygons."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
import pytest
import shapely
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import LineString, Point, Polygon, box

from tailor.core.carried.loft import Loft, Sections
from tailor.core.carried.stations import Shape, Station
from tailor.core.leather.leather import Leather
from tailor.core.shell.region import approach
from tailor.core.shell.wrap import folded, inner_girth
from tests.lofts import sections, sizes
from tests.sweeps import about

FINE = 256


def prism(station: Station) -> Sections:
    return Loft((station, replace(station, y=10.0))).sections(np.array([5.0]))


def true_outline(s: Station) -> Polygon:
    """The section drawn anew from its definition, finely, without the loft's sampling."""
    w, mid = s.width, (s.x_spine + s.x_seam) / 2
    if s.shape is Shape.SLAB:
        r = s.corner
        core = box(s.x_spine + r, -s.back + r, s.x_seam - r, s.front - r)
        return core.buffer(r, quad_segs=FINE) if r else core
    if s.shape is Shape.WEDGE:
        return Polygon([(s.x_spine, s.front), (s.x_seam, 0), (s.x_spine, -s.back)])
    if s.shape is Shape.DIAMOND:
        return Polygon([(s.x_spine, 0), (mid, s.front), (s.x_seam, 0), (mid, -s.back)])
    angle = np.linspace(0, 2 * np.pi, 4 * FINE, endpoint=False)
    height = np.where(np.sin(angle) > 0, s.front, s.back) * np.sin(angle)
    return Polygon(np.column_stack([mid + w / 2 * np.cos(angle), height]))


def reference(s: Station, leather: Leather, c: float, welt: float, x_welt: float, x_end: float) -> tuple[float, float]:
    """Front and back path by polygons. Both parts of the union are convex, so each is grown on its own."""
    grown = true_outline(s).buffer(c, quad_segs=FINE) if c else true_outline(s)
    radius = leather.inside_radius
    disc = Point(s.x_spine - c + radius, 0).buffer(radius, quad_segs=4 * FINE)
    kernel = shapely.union_all([grown, disc, LineString([(x_welt, -welt / 2), (x_welt, welt / 2)])]).convex_hull
    slab = box(x_welt, -welt / 2, x_end + 100, welt / 2)
    skin = kernel.buffer(leather.offset, quad_segs=4 * FINE).union(slab.buffer(leather.offset, quad_segs=FINE))
    ring = LineString(skin.exterior.coords)
    return tuple(ring.intersection(half).length for half in (box(-999, 0, x_end, 999), box(-999, -999, x_end, 0)))


@settings(max_examples=about(250))
@given(
    sections(), sizes(1, 5), sizes(0.2, 0.8), sizes(0.1, 1.5), sizes(0, 2), sizes(1, 10), sizes(0.1, 15), sizes(3, 9)
)
def test_paths_agree_with_polygons(
    s: Station, thick: float, neutral: float, fold: float, c: float, welt: float, d: float, inset: float
) -> None:
    leather = Leather(thick, neutral, fold)
    x_welt = s.x_seam + max(d, c)
    wrap = folded(prism(s), leather, c, welt, np.array([x_welt]))
    end = np.array([x_welt + inset])
    front, back = reference(s, leather, c, welt, x_welt, float(end[0]))
    assert wrap.front.length_to(end)[0] == pytest.approx(front, abs=0.02)
    assert wrap.back.length_to(end)[0] == pytest.approx(back, abs=0.02)


@given(sizes(20, 60), sizes(8, 24), sizes(1, 4), sizes(0.3, 0.7), sizes(1, 6), sizes(3, 15))
def test_thick_slab_has_its_closed_form(w: float, t: float, thick: float, k: float, welt: float, d: float) -> None:
    leather = Leather(thick, k, 0.5)
    assume(leather.inside_radius < t / 2)
    s = Station(0, 0, w, t / 2, t / 2, Shape.SLAB)
    inset = thick + 4
    a = math.atan((t - welt) / 2 / d)
    kt = leather.offset
    # The corner must still be on the slope; a wall as steep as that is drawn round it instead.
    assume((t - welt) / 2 / math.sin(a) > kt * math.tan(a / 2) + 0.1)
    expected = t / 2 + w + (t - welt) / 2 / math.sin(a) + inset + kt * (math.pi / 2 + a) - 2 * kt * math.tan(a / 2)
    wrap = folded(prism(s), leather, 0.0, welt, np.array([w + d]))
    assert wrap.front.length_to(np.array([w + d + inset]))[0] == pytest.approx(expected, abs=1e-6)


@given(sections(), sizes(1, 4), sizes(0, 2), sizes(1, 8), sizes(2, 12))
def test_path_grows_with_all_that_goes_into_it_and_scales(
    s: Station, thick: float, c: float, welt: float, d: float
) -> None:
    def path(s: Station, thick: float, c: float, welt: float, d: float) -> float:
        x = np.array([s.x_seam + max(d, c)])
        return float(folded(prism(s), Leather(thick), c, welt, x).front.length_to(x + 12)[0])

    here = path(s, thick, c, welt, d)
    for more in ((thick + 0.3, c, welt, d), (thick, c + 0.2, welt, d + 0.2), (thick, c, welt, d + 0.5)):
        assert path(s, *more) > here - 1e-9
    two = Station(0, 2 * s.x_spine, 2 * s.x_seam, 2 * s.front, 2 * s.back, s.shape, 2 * s.corner)
    x = np.array([two.x_seam + 2 * max(d, c)])
    twice = folded(prism(two), Leather(2 * thick), 2 * c, 2 * welt, x).front.length_to(x + 24)[0]
    assert twice == pytest.approx(2 * here, abs=1e-6)


@given(sections(), sizes(1, 4), sizes(0, 2), sizes(1, 8), sizes(2, 12))
def test_leather_is_no_shorter_than_the_hull_and_turning_over_swaps_sides(
    s: Station, thick: float, c: float, welt: float, d: float
) -> None:
    x = np.array([s.x_seam + max(d, c)])
    wrap = folded(prism(s), Leather(thick), c, welt, x)
    end = x + 12
    both = float(wrap.front.length_to(end)[0] + wrap.back.length_to(end)[0])
    hull = prism(s).girth()[0]
    assert hull == pytest.approx(true_outline(s).length, rel=1e-3)
    assert both + 2 * welt + 24 > hull
    assert inner_girth(wrap, Leather(thick))[0] >= hull - 1e-6
    over = folded(prism(replace(s, front=s.back, back=s.front)), Leather(thick), c, welt, x)
    assert over.front.length_to(end)[0] == pytest.approx(wrap.back.length_to(end)[0], abs=1e-9)


@given(sections(symmetric=True), sizes(1, 4), sizes(0, 2), sizes(1, 5), st.floats(20, 60))
def test_outside_the_discs_of_approach_leather_comes_down_at_the_angle(
    s: Station, thick: float, c: float, welt: float, angle: float
) -> None:
    limit, seen = math.radians(angle), prism(s)
    x = np.nanmax(seen.x + approach(seen.front, c, welt / 2, limit), axis=1, initial=-np.inf)
    assume(x[0] > s.x_seam + c + 0.1)
    assume(s.front + c > thick)  # else it comes down from the fold, which is a claim of no disc
    assert folded(seen, Leather(thick), c, welt, x).front.approach[0] == pytest.approx(limit, abs=2e-3)


@given(sections(), sizes(1, 4), sizes(0, 1), sizes(1, 6), sizes(2, 12), st.floats(0.02, 0.98))
def test_a_point_on_the_leather_is_found_again_by_its_length(
    s: Station, thick: float, c: float, welt: float, d: float, share: float
) -> None:
    x = np.array([s.x_seam + max(d, c)])
    line = folded(prism(s), Leather(thick), c, welt, x).front
    length = share * line.length_to(x + 8)
    point = line.point_at(length)
    drawn = line.points(0, float(x[0]) + 8)
    assert LineString(drawn).distance(Point(point[0])) < 0.01
    assert LineString(drawn).length == pytest.approx(line.length_to(x + 8)[0], abs=0.02)
    on_wall = abs(line.point_at(length + 1e-4)[0, 0] - point[0, 0]) < 1e-6
    if not on_wall:  # on an upright wall many lengths share one x
        assert line.length_to(point[:, 0])[0] == pytest.approx(length[0], abs=1e-3)
