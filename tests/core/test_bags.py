"""Bags: what goes under, into and over the top of them, put together again from the flat pieces."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Polygon, box

from tailor import demo
from tailor.core.draft.flat_goods.built import Built
from tailor.core.draft.flat_goods.roll import rolled
from tailor.core.errors import InputError
from tailor.core.job import draft, judge
from tailor.core.together.assembled import Assembled
from tests.lofts import typed

FINE = 256


def made(name: str, **settings: str) -> Built:
    job = typed(demo.job(name), **settings)
    built = draft(job)
    assert isinstance(built, Built)
    assert not [v for v in judge(job, built) if v.ruling == "stop"]
    assert all(Polygon(p.cut).is_valid for p in built.pieces)
    return built


def levels(bag: Built, piece: str, seam: str, edge: str) -> float:
    """Height of a straight row across a piece."""
    row = bag.piece(piece).holes_of(seam, edge)
    assert np.ptp(row[:, 1]) < 1e-9
    return float(row[0, 1])


# Straps under the body


def test_a_strap_under_a_body_lies_outside_it_and_comes_back_to_its_rim() -> None:
    bag = made("kit-bag")
    thick = bag.leather.thickness
    for side in ("right", "left"):
        name = f"{side} under strap"
        rows = [seam for seam in bag.seams if seam.name.startswith(name)]
        own, on = ([levels(bag, p, seam.name, label(seam.edges)) for seam in rows]
                   for p, label in ((name, lambda e: e[0]), ("body", lambda e: e[1])))  # fmt: skip
        lengths = np.diff(own) - np.diff(on)
        # As long as the body along its walls; under it, round two quarter turns, longer by the angle times a thickness.
        assert -lengths == pytest.approx([0, np.pi * thick, 0], abs=1e-6)
        ends = [levels(bag, name, rows[k].name, rows[k].edges[2]) for k in (0, -1)]
        ring = 3.0 / 2 + bag.leather.offset
        assert ends[0] - own[0] == pytest.approx(own[-1] - ends[1])
        assert ends[0] - own[0] > np.pi * ring + 2 * 3.0  # round the ring, and a leg either side of it
    assert [h.name for h in bag.hardware if h.key == "under.ring"] == ["d-ring 25"] * 4
    order = [seam.name for seam in bag.seams]
    assert order.index("left under strap row 1") < order.index("left seam")  # while the body lies flat


def test_a_strap_goes_without_the_rows_that_would_cut_a_pocket() -> None:
    deep = made("kit-bag", pocket__depth="150mm")
    pocket = [h for h in deep.piece("body").holes if h.seam.startswith("pocket")]
    low, high = (f(h.y for h in pocket) for f in (min, max))
    rows = [levels(deep, "body", s.name, s.edges[1]) for s in deep.seams if "right under strap" in s.name]
    assert len(rows) == 3
    assert not [y for y in rows if low - 6 < y < high + 6]
    assert "under.length" not in made("kit-bag", under__ring="none").reasons
    broad = draft(demo.job("kit-bag").typed("seam.margin", "10mm").typed("rim.bar", "4mm"))
    ends = [s.edges for s in broad.seams if "right under strap" in s.name]
    assert [len(edges) for edges in (ends[0], ends[-1])] == [3, 3]  # both rims hold, and their rings


@pytest.mark.parametrize(("wide", "names"), [(75, {"right", "left"}), (40, {"middle"}), (20, set())])
def test_a_narrow_body_has_the_straps_for_which_there_is_room(wide: float, names: set[str]) -> None:
    job = demo.job("kit-bag").typed("inside.across", f"{wide}mm").typed("pocket.count", "0")
    bag = draft(job)
    whole = Assembled(bag.unmarked())
    assert {p.name.split()[0] for p in bag.pieces if p.name.endswith("under strap")} == names
    assert max(met.distance for met in whole.seams) < 0.3
    assert bool(bag.value("under.length")) is bool(names)
    for skin in (skin for name, skin in whole.skins.items() if name.endswith("under strap")):
        assert np.abs(skin.placed.at[:, 0]).max() < wide / 2  # between the caps
    if not names:
        with pytest.raises(InputError, match="wider than the body"):
            draft(job.typed("under.ring", "d-ring 25"))


# Rims


@pytest.mark.parametrize("bar", [3.0, 6.0])
def test_a_frames_tunnel_goes_round_its_bar(bar: float) -> None:
    """From row to row: half round the bar, and two legs that come down no steeper than the leather does."""
    bag = made("kit-bag", rim__bar=f"{bar}mm")
    flat = levels(bag, "body", "front tunnel", "front turned in") - levels(bag, "body", "front tunnel", "front tunnel")
    half, margin = bar / 2, bag.value("seam.margin")
    round_ = np.pi * (max(half, bag.leather.inside_radius) + bag.leather.offset)
    down = half / np.sin(np.radians(bag.leather.approach))
    assert round_ + 2 * (down + margin) < flat + 1.0
    assert flat < round_ + 2 * (down + bar + margin)
    tongue = bag.piece("body").cut[bag.piece("body").cut[:, 1] > 1.0]
    assert tongue[:, 1].max() == pytest.approx(flat, abs=0.01)  # a margin beyond its row, as far as it is turned
    assert np.ptp(tongue[:, 0]) < np.ptp([fold[0, 0] for fold in bag.piece("body").folds])
    assert bag.value("rim.length") < 300


@pytest.mark.parametrize("turns", [1, 2, 3, 5])
def test_a_roll_takes_more_with_every_turn(turns: int) -> None:
    """Laid down as half circles, alternately at either end of its stay, each about all that is rolled already."""
    stay, layer = 28.0, 3.2
    length, thick = 0.0, 0.0
    for _ in range(turns):
        thick += layer
        half_circle = shapely.Point(0, 0).buffer(thick / 2, quad_segs=FINE).exterior.length / 2
        length += stay + half_circle
    assert rolled(turns, stay, layer) == pytest.approx(length, rel=1e-4)


def test_a_bag_with_a_roll_top_goes_on_above_its_mouth() -> None:
    bag, plain = made("spar-bag", roll__turns="3", roll__closing="snap 12"), made("spar-bag")
    top = bag.piece("front").cut[:, 1].max()
    assert top == pytest.approx(rolled(3, 28.0, 3.2) + 28.0)
    assert "rim.wire" in plain.reasons
    assert "rim.wire" not in bag.reasons
    for panel in ("front", "back"):
        stay = Polygon(bag.piece(f"{panel} stay").cut)
        assert Polygon(bag.piece(panel).cut).contains(stay)
        spots = [(f.x, f.y) for f in bag.piece(panel).fittings if f.name == "snap 12"]
        assert spots == [(f.x, f.y) for f in bag.piece(f"{panel} stay").fittings]
    snaps = [h for h in bag.hardware if h.key == "roll.closing"]
    assert len(snaps) == 2
    assert all(h.found and h.post and h.stack == pytest.approx(4 * 1.6) for h in snaps)
    assert bag.inside == plain.inside


# Inside


@pytest.mark.parametrize(
    ("name", "typed", "across", "walls"),
    [
        ("laser-level", {"foam__thickness": "0"}, 82.0, ("gusset", "gusset")),
        ("kit-bag", {"pocket__count": "0"}, 130.0, ("body", "body")),
        ("spar-bag", {}, 110.0, ("front", "back")),
    ],
)
def test_dividers_reach_from_wall_to_wall(
    name: str, typed: dict[str, str], across: float, walls: tuple[str, str]
) -> None:
    """Folded up again: the flat between the stitches, less two quarter turns, and the leather each turn stands in."""
    bag = made(name, divider__count="2", **typed)
    thick, radius, offset = bag.leather.thickness, bag.leather.inside_radius, bag.leather.offset
    arc = shapely.Point(0, 0).buffer(radius + offset, quad_segs=FINE).exterior.length / 4
    middles = []
    for k in (1, 2):
        panel = bag.piece(f"divider {k}")
        seams = [s for s in bag.seams if s.name.startswith(f"divider {k} to")]
        own = [panel.holes_of(s.name, s.edges[0]) for s in seams]
        flat = own[1][0, 0] - own[0][0, 0]
        assert flat - 2 * (arc + 2.0) + 2 * (radius + thick) == pytest.approx(across, abs=0.2)
        on = [bag.piece(p).holes_of(s.name, s.edges[1]) for p, s in zip(walls, seams, strict=True)]
        assert len({len(row) for row in (*own, *on)}) == 1
        spots = [float(row[0, 0]) for row in on]
        assert spots[0] == pytest.approx(-spots[1] if walls == ("front", "back") else spots[1])
        middles.append(spots[0] - (thick / 2 + radius + 2.0))
        tops = [abs(row[-1, 1] - row[0, 1]) for row in (*own, *on)]
        assert tops == pytest.approx([tops[0]] * 4)
    assert sum(middles) == pytest.approx(0.0, abs=1e-6)  # evenly apart
    assert middles[1] - middles[0] - thick == pytest.approx(bag.value("divider.room"))
    order = [s.name for s in bag.seams]
    assert order.index("divider 2 to the " + seams[0].name.split("the ")[1]) < len(order) - 1


@pytest.mark.parametrize(
    ("name", "typed", "said"),
    [
        ("kit-bag", {"divider.count": "1"}, "where a row of pockets is sewn"),
        ("laser-level", {"divider.count": "1"}, "where foam lies against it"),
        ("spar-bag", {"divider.count": "8", "inside.across": "120"}, "leave 12 mm between them"),
        ("spar-bag", {"divider.count": "1", "divider.height": "300"}, "does not stay on a wall 240 mm high"),
    ],
)
def test_dividers_that_have_no_place_are_refused(name: str, typed: dict[str, str], said: str) -> None:
    job = demo.job(name)
    for key, text in typed.items():
        job = job.typed(key, text)
    with pytest.raises(InputError, match=said):
        draft(job)


def test_a_laminated_bottom_is_cut_for_the_bend() -> None:
    """Each layer's neutral line round the inside of a channel with round corners, by polygons."""
    bag = made("kit-bag", bottom__made="laminated")
    thick, offset = bag.leather.thickness, bag.leather.offset
    radius = bag.value("panel.corner") - (thick + bag.leather.inside_radius + 2.0)  # inside its walls
    up = 0.25 * 200
    for name, out in (("bottom outer", thick - offset), ("bottom inner", 2 * thick - offset)):
        channel = box(0, 0, 130, 400).buffer(-radius).buffer(radius, quad_segs=FINE).buffer(-out, quad_segs=FINE)
        path = channel.exterior.intersection(box(-1, -1, 131, radius + up))
        cut = np.ptp(bag.piece(name).cut[:, 1])
        assert cut == pytest.approx(path.length, abs=0.1)
    shorter = np.ptp(bag.piece("bottom outer").cut[:, 1]) - np.ptp(bag.piece("bottom inner").cut[:, 1])
    assert shorter == pytest.approx(np.pi * thick) == pytest.approx(bag.value("bottom.shorter"))
    tight = demo.job("kit-bag").typed("bottom.made", "laminated").typed("panel.corner", "9mm")
    assert [v.ruling.value for v in judge(tight, draft(tight)) if v.name.startswith("Bottom bends")] == ["stop"]


def test_squares_may_be_left_on_and_are_sewn_where_they_would_be_cut() -> None:
    cut, left = made("spar-bag"), made("spar-bag", corner__boxed="left")
    for panel in ("front", "back"):
        whole = Polygon(left.piece(panel).cut)
        assert whole.area == pytest.approx(whole.minimum_rotated_rectangle.area)
        assert whole.contains(Polygon(cut.piece(panel).cut))
        assert left.piece(panel).holes == cut.piece(panel).holes
        trims = shapely.union_all([LineString(r.points) for r in left.piece(panel).rules if r.kind == "trim"])
        assert trims.within(Polygon(cut.piece(panel).cut).exterior.buffer(1e-6))


@pytest.mark.parametrize("angle", [45.0, 60.0, 75.0])
def test_a_dart_takes_out_less_and_ends_where_its_seams_do(angle: float) -> None:
    """Both edges from the box's own corner, as long as each other, a margin inside the cut; the box still goes in."""
    square, dart = made("spar-bag"), made("spar-bag", corner__dart=f"{angle}")
    panel = dart.piece("front")
    upright, level = (panel.holes_of("right corner of the front", edge) for edge in ("upright", "level"))
    ways = [(row[-1] - row[0]) / np.hypot(*(row[-1] - row[0])) for row in (upright, level)]
    assert np.degrees(np.arccos(ways[0] @ ways[1])) == pytest.approx(angle, abs=0.01)
    lines = [
        LineString([row[0] - 50 * way, row[-1] + 50 * way]) for row, way in zip((upright, level), ways, strict=True)
    ]
    apex = lines[0].intersection(lines[1])
    old = square.piece("front").holes_of("right corner of the front", "upright")[:, 0].mean()
    assert apex.x == pytest.approx(old, abs=0.01)  # the box's lower edge ends where it did
    assert np.hypot(*(upright[-1] - upright[0])) == pytest.approx(np.hypot(*(level[-1] - level[0])))
    cut = Polygon(panel.cut)
    for row in (upright, level):
        assert cut.exterior.distance(LineString(row)) == pytest.approx(dart.value("seam.margin"), abs=0.01)
    assert Polygon(square.piece("front").cut).area < cut.area
    bottom, side = panel.holes_of("bottom", "front"), panel.holes_of("right side", "right front")
    assert np.hypot(*(bottom[0] - upright[-1])) < 5.0  # the last holes stand together where three seams meet
    assert np.hypot(*(side[-1] - level[-1])) < 5.0
