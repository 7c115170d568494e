"""Covers, bags, trays and rolls: each put together again from its flat pieces by another way."""

from __future__ import annotations

import numpy as np
import pytest
import shapely
from shapely.geometry import LineString, Point, Polygon, box

from tests.reports import FINE, bend, holes, piece, reported, run_of, settled


def over_what_lies(long: float, thick: float, offset: float, steep: float) -> float:
    """Leather from seam to seam over half of a thing that lies between two sheets, the shortest line round it."""
    out = long / 2 + thick / 2 / np.tan(np.radians(steep))
    body = box(-long / 2, -thick / 2, long / 2, thick / 2).buffer(offset, quad_segs=FINE)
    seams = [(-out, offset), (out, offset)]
    down = [Point(x, -1e-9).buffer(offset, quad_segs=FINE) for x in (-out, out)]  # as steep from its bend as it comes
    hull = shapely.union_all([body, *down, shapely.MultiPoint(seams)]).convex_hull
    return float(hull.exterior.intersection(box(-out, offset, out, 1e3)).length)


def test_a_cover_goes_once_round_the_closed_book() -> None:
    found = reported("site-book")
    _, radius, offset = bend(found)
    front, back = (holes(found, "cover", f"{s} pocket", f"{s} pocket") for s in ("front", "back"))
    length = front[:, 0].max() - back[:, 0].min()
    inside = found["inside"]
    turned = np.pi * (radius + offset) - 4 * radius  # two quarter turns, in place of four times the radius of straight
    assert length == pytest.approx(2 * inside[0] + inside[2] + turned, abs=0.2)
    assert np.ptp(front[:, 1]) == pytest.approx(over_what_lies(215, 2.5, offset, 35) + 2.0, abs=0.2)
    folds = [line[0][0] for line in piece(found, "cover")["folds"]]
    glue_free = [min(abs(x) for x, _ in rule) for rule in [[(f, 0)] for f in folds]]
    assert min(glue_free) > inside[2] / 2  # the spine stays free


def test_a_document_cover_shuts_over_papers_in_both_its_pockets() -> None:
    """Round the shut cover by polygons: both pockets full, and room in the fold; its seams stop short of the spine."""
    found = reported("delivery-notes")
    thick, radius, offset = bend(found)
    front, back = (holes(found, "cover", f"{s} pocket", f"{s} pocket") for s in ("front", "back"))
    wide, tall, papers = found["inside"]
    space = settled(found, "fold.space")
    shut = 2 * (papers + thick)
    closed = box(0, 0, wide + space / 2 + 50, shut).buffer(-radius).buffer(radius + offset, quad_segs=FINE)
    round_ = closed.exterior.intersection(box(-9, -9, wide + space / 2, 99)).length
    assert front[:, 0].max() - back[:, 0].min() == pytest.approx(round_, abs=0.2)
    assert front[:, 0].min() - back[:, 0].max() > space + shut  # an open spine
    for side in ("front", "back"):
        pocket = np.array(piece(found, f"{side} pocket")["cut"])
        assert np.ptp(pocket[:, 0]) - settled(found, "seam.margin") == pytest.approx(wide)
    lining, cover = (Polygon(piece(found, name)["cut"]) for name in ("lining", "cover"))
    assert lining.bounds[3] - cover.bounds[3] == pytest.approx(settled(found, "lining.feather"))
    assert tall == pytest.approx(over_what_lies(148, papers, offset, 35) + 3, abs=0.2)
    assert wide - 104 == pytest.approx((tall - 148 - 3) / 2 + 3)  # at the seam, and open at the fold
    (stack,) = {s["stack"] for s in found["seams"]}
    assert stack == pytest.approx(2 * thick + 0.8)  # the lining is caught in them
    assert found["job"]["settings"]["panel.lining"] == "lined"  # as is usual for it


def test_a_covers_strap_goes_round_its_fore_edge() -> None:
    """From its outer rivet on the back, round the edge of the closed book, to its button on the front."""
    found = reported("site-book")
    thick, _, offset = bend(found)
    rivets = [
        [f for f in piece(found, name)["fittings"] if f["name"] == "rapid rivet 7"] for name in ("keeper", "cover")
    ]
    keeper, cover = (np.array([(f["x"], f["y"]) for f in part]) for part in rivets)
    assert np.ptp(keeper[:, 1]) == pytest.approx(np.ptp(cover[:, 0]), abs=0.01)  # as far apart on both
    (button,) = [f["y"] for f in piece(found, "keeper")["fittings"] if f["name"] == "snap 10"]
    (stud,) = [f["x"] for f in piece(found, "cover")["fittings"] if f["name"] == "snap 10"]
    wide, _, deep = found["inside"]
    fore = (
        wide + deep / 2 + bend(found)[1] * (np.pi / 2 - 2) + np.pi / 2 * offset
    )  # with half of both turns of the spine
    on_back, on_front = cover[:, 0].min() + fore, fore - stud
    beyond = settled(found, "cover.edge")
    assert button - keeper[:, 1].max() == pytest.approx(
        on_back + on_front + deep + 2 * (beyond + thick) + np.pi * offset, abs=0.2
    )


def test_boxed_corners_give_the_depth_and_the_girth_goes_round() -> None:
    found = reported("spar-bag")
    _, _, offset = bend(found)
    wide, tall, deep = found["inside"]
    ring = np.array(piece(found, "front")["cut"])
    margin = settled(found, "seam.margin")
    step = np.unique(ring[:, 0].round(4))
    square = step[-1] - step[-2]
    corner = np.unique(ring[:, 1].round(4))
    assert corner[1] - corner[0] == pytest.approx(square)  # a square
    sewn_across = 2 * square  # its two edges, opened to one line
    assert sewn_across - np.pi / 2 * offset == pytest.approx(deep, abs=0.2)
    girth = 2 * (np.ptp(ring[:, 0]) - 2 * margin)
    assert girth == pytest.approx(2 * (wide + deep) + 2 * np.pi * offset, abs=0.2)
    middle = shapely.box(0, 0, wide, deep).buffer(-1.5, join_style="mitre")  # of a 3 mm wire against the leather
    (wire,) = (r["value"] for r in found["reasons"] if r["name"] == "rim.wire")
    assert wire == pytest.approx(middle.length + 40)
    down = -(corner[0] + margin)
    board = settled(found, "board.thickness")  # lies in the bottom, and the room is above it
    assert down == pytest.approx(tall + board + deep / 2 + np.pi / 2 * offset, abs=0.2)
    for panel in ("front", "back"):
        for side in ("right", "left"):
            seam = f"{side} corner of the {panel}"
            legs = [holes(found, panel, seam, edge) for edge in ("upright", "level")]
            start = legs[0][0]
            assert [np.hypot(*(a - start)) for a in legs[0]] == pytest.approx(
                [np.hypot(*(a - b)) for a, b in zip(legs[1], [legs[1][0]] * len(legs[1]), strict=True)], abs=0.05
            )


def test_a_soft_bag_is_turned_and_its_gusset_eased() -> None:
    found = reported("ridge-bag")
    _, _, offset = bend(found)
    lower, upper = (holes(found, "front", f"front to the {n}", f"to the {n}") for n in ("gusset", "front zip strip"))
    every = np.vstack([lower, upper])
    assert np.ptp(every, axis=0) - 2 * offset == pytest.approx([280, 190], abs=0.2)
    sides = [holes(found, "gusset", f"{p} to the gusset", p)[:, 0].mean() for p in ("front", "back")]
    assert sides[1] - sides[0] - 2 * offset - 2 * settled(found, "foam.thickness") == pytest.approx(70, abs=0.2)
    strip = piece(found, "front zip strip")
    edge = holes(found, "front zip strip", "front to the front zip strip", "front")[0, 0]
    fold = strip["folds"][0][0][0]
    assert 2 * (fold - edge) + settled(found, "zip.width") == pytest.approx(sides[1] - sides[0], abs=0.2)
    ease, radius = settled(found, "gusset.ease"), settled(found, "panel.corner")
    flat = np.ptp(holes(found, "gusset", "front to the gusset", "front")[:, 1])
    assert flat == pytest.approx((1 - ease) * run_of(lower, radius), abs=0.1)
    foam = np.ptp(np.array(piece(found, "front foam")["cut"]), axis=0)
    assert (foam < np.ptp(every, axis=0) - 8).all()


def test_a_tray_folds_up_to_its_floor_and_walls() -> None:
    for how in ("pinched", "slit"):
        found = reported("peg-tray", f"corner.made={how}")
        _, radius, offset = bend(found)
        quarter = np.pi / 2 * (radius + offset)
        tray = piece(found, "tray")
        fold = max(line[0][0] for line in tray["folds"] if line[0][0] == line[1][0])
        assert 2 * (fold - quarter / 2 + radius) == pytest.approx(150, abs=0.2)
        out = np.array(tray["cut"])[:, 0].max()
        wall_up = out - fold - quarter / 2 + radius
        assert wall_up - settled(found, "board.thickness") == pytest.approx(32, abs=0.2)
        floor = np.ptp(np.array(piece(found, "floor")["cut"]), axis=0)
        assert floor == pytest.approx([150 - 2 * radius - 2, 200 - 2 * radius - 2], abs=0.2)
        assert len(tray["fittings"]) == 8
        if how == "pinched":  # folded along the diagonal, one hole comes to lie on the other
            corner = [np.array([abs(f["x"]), abs(f["y"])]) for f in tray["fittings"][:2]]
            ends = [c - np.array([fold, 200 / 2 + quarter / 2 - radius]) for c in corner]
            assert ends[0] == pytest.approx(ends[1][::-1], abs=0.01)


def test_channels_bow_over_their_tools() -> None:
    found = reported("marking-gauge")
    _, _, offset = bend(found)
    tools = [float(v) for v in str(found["job"]["settings"]["tools.sizes"]).split(";")]
    rows = [holes(found, "base", f"row {k}", f"under row {k}")[0, 0] for k in range(1, len(tools) + 2)]
    runs = [holes(found, "channels", f"row {k}", f"row {k}")[0, 0] for k in range(1, len(tools) + 2)]
    apart = settled(found, "tools.apart")
    for k, tool in enumerate(tools):
        flat, over = rows[k + 1] - rows[k] - apart, runs[k + 1] - runs[k] - apart
        radius = tool / 2 + 0.2
        lying = shapely.union_all(
            [Point(0, radius).buffer(radius, quad_segs=FINE), Point(-flat / 2, 0), Point(flat / 2, 0)]
        )
        arch = shapely.union_all([lying.convex_hull.buffer(offset, quad_segs=FINE),
                                  LineString([(-99, 0), (99, 0)]).buffer(offset, quad_segs=FINE)])  # fmt: skip
        path = arch.exterior.intersection(box(-flat / 2, 1e-6, flat / 2, 99))
        assert over == pytest.approx(path.length, abs=0.2)
        assert flat < over


@pytest.mark.parametrize("count", [1, 3, 5])
def test_every_card_slides_stands_on_its_seam_and_shows(count: int) -> None:
    """Put together hole on hole: no card stands out of the back, and each shows a step above its pocket."""
    found = reported("crew-cards", f"pocket.count={count}")
    across = np.ptp(holes(found, "back", "main", "back")[:, 0])
    assert across >= 86 + 2.4 + 2.0 - 0.2
    top = np.array(piece(found, "back")["cut"])[:, 1].max()
    feet, brims = [], []
    for k in range(1, count):
        name = f"pocket {k}"
        rows = [(f"foot of {name}", "foot", f"foot {k}"), (f"right arm of {name}", "right", f"right {k}"),
            (f"left arm of {name}", "left", f"left {k}")]  # fmt: skip
        own, under = (np.vstack([holes(found, on, row[0], row[1 + (on == "back")]) for row in rows])
            for on in (name, "back"))  # fmt: skip
        assert np.ptp(own - under, axis=0) == pytest.approx(0.0, abs=1e-6)
        outline = np.array(piece(found, name)["cut"]) + (under - own)[0]
        assert np.ptp(outline[outline[:, 1] < outline[:, 1].min() + 1][:, 0]) < across  # hidden under the next
        feet.append(holes(found, "back", rows[0][0], rows[0][2])[0, 1])
        brims.append(outline[:, 1].max())
    feet.append(holes(found, "back", "main", "back")[:, 1].min())
    brims.append(np.array(piece(found, "front")["cut"])[:, 1].max())
    cards = np.array(feet) + 54.0
    assert cards.max() < top
    assert cards - brims == pytest.approx(settled(found, "pocket.step"), abs=0.2)


def test_a_box_hangs_from_rings_and_its_corners_are_riveted() -> None:
    found = reported("laser-level")
    names = [p["name"] for p in found["pieces"]]
    assert {"right ring tab", "left ring tab", "shoulder strap", "buckle strap"} <= set(names)
    rings = [h for h in found["hardware"] if h["name"] == "d-ring 20"]
    assert len(rings) == 2
    rivets = [h for h in found["hardware"] if h["key"] == "corner.rivet"]
    assert len(rivets) == 4
    assert all(h["found"] and h["post"] for h in rivets)
    panel = piece(found, "front")
    spots = np.array([(f["x"], f["y"]) for f in panel["fittings"] if f["name"] == "rapid rivet 7"])
    line = holes(found, "front", "front seam", "panel")
    assert np.abs(spots[:, 0]).max() == pytest.approx(np.abs(line[:, 0]).max(), abs=0.01)  # in the line of the stitches
    assert spots[:, 1].min() > line[:, 1].max() + 4  # above the first of them
    gusset = np.array([(f["x"], f["y"]) for f in piece(found, "gusset")["fittings"] if f["name"] == "rapid rivet 7"])
    assert sorted(np.round(np.abs(gusset[:, 0]), 6)) == pytest.approx([np.abs(gusset[0, 0])] * 4)
    ends = np.array(piece(found, "gusset")["cut"])[:, 1]
    assert gusset[:, 1].max() - ends.max() == pytest.approx(spots[0, 1] - np.array(panel["cut"])[:, 1].max(), abs=0.01)
    bare = reported("laser-level", "corner.rivet=none", "strap.buckle=none")
    assert not [h for h in bare["hardware"] if h["key"] in ("corner.rivet", "strap.buckle")]


@pytest.mark.parametrize(("name", "through"), [("whetstone", 25 + 1.2 + 2 * 0.8), ("laser-level", 88 + 2 + 12)])
def test_a_flap_goes_over_the_depth_and_its_button_meets_the_other(name: str, through: float) -> None:
    """Laid round the two edges of the top by polygons: a straight over the depth, and a quarter turn at either end."""
    found = reported(name, "flap.closing=snap 10")
    thick, radius, offset = bend(found)
    top = shapely.box(radius, -50, through + thick - radius, -radius).buffer(radius + offset, quad_segs=FINE).exterior
    over = top.intersection(box(-9, -radius, 999, 99)).length
    back, front = (np.array(piece(found, part)["cut"])[:, 1] for part in ("back", "front"))
    reach = settled(found, "flap.reach")
    assert back.max() - front.max() == pytest.approx(over + reach, abs=0.2)
    (stud,) = [f["y"] for f in piece(found, "front")["fittings"] if f["name"] == "snap 10"]
    (button,) = [f["y"] for f in piece(found, "back")["fittings"] if f["name"] == "snap 10"]
    assert button - front.max() - over == pytest.approx(front.max() - stud, abs=0.2)
