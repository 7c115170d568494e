"""What else stands, besides the numbers of jobs: what is written and drawn, read and measured, told and advised."""

from __future__ import annotations

import io
import re
import tempfile
from collections.abc import Callable, Iterator, Mapping
from dataclasses import fields
from datetime import date
from pathlib import Path
from typing import Any

import cv2
import numpy as np
import pdfplumber
import shapely
import trimesh
from pdfminer.pdftypes import resolve1

from tailor import demo
from tailor.core.advice import ways_out
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import GLUES
from tailor.core.carried import block, mesh, outline
from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.photo.mat import MATS
from tailor.core.carried.photo.parallax import Rise
from tailor.core.carried.photo.spread_out import seen_by_sheets, spread_out
from tailor.core.carried.photo.trace import look, trace
from tailor.core.carried.photo.view import NOMINAL, Lens
from tailor.core.cut.asked import templates
from tailor.core.cut.found import Found
from tailor.core.cut.laying import Laid, Laying
from tailor.core.cut.left import rests
from tailor.core.cut.shapes import shapes
from tailor.core.cut.usual import SHAPES, usual
from tailor.core.draft.draft import Draft
from tailor.core.draft.tooled.asked import Picture, Tooling
from tailor.core.draft.views.seen import Eye, seen
from tailor.core.habit import declared
from tailor.core.job import draft
from tailor.core.keys import KEYS
from tailor.core.leather import moulding, stitching
from tailor.core.leather.machine import BEDS
from tailor.core.log.case import Fit, Said, When
from tailor.core.log.constants import CONSTANTS
from tailor.core.log.effects import causes, wrong
from tailor.core.log.entry import Entry, Place
from tailor.core.log.sight import sight
from tailor.core.log.words import wish
from tailor.core.notes.notes import NOTES
from tailor.core.picking import picks
from tailor.core.shop.made import ordered
from tailor.core.shop.progress import Progress
from tailor.core.shop.quote import quote
from tailor.core.together.assembled import Assembled
from tailor.core.together.closing import Closing
from tailor.core.together.drawn import drawn
from tailor.core.together.solids import Sight
from tailor.demo.shop import shop as of_the_demo
from tailor.files import (
    bench_card,
    calendar,
    dxf,
    laid,
    laid_sheet,
    mat_sheet,
    order_sheet,
    pdf,
    planned,
    quote_sheet,
    scanned,
    sheet,
    svg,
)
from tailor.files.paged import paged
from tailor.standins import hide_camera
from tailor.standins.camera import Shot, photograph, prism
from tailor.standins.hide_camera import Over, about
from tests.core.test_closing import DYES
from tests.core.test_replanned import at, begun, left
from tests.things import job_of

NUMBERS = re.compile(rb"-?\d+\.?\d*")
DAY = date(2026, 5, 4)
LONGEST = 5000.0  # points
BLACK = (0, 0, 0)
DRAWN = ("eaves-blade", "laser-level", "spar-hook")
ROUNDED = np.array([(40, 0), (44, 0), (60, 12), (64, 70), (52, 150), (40, 168), (28, 150), (22, 70), (26, 12)]) * 1.0


def _made(name: str) -> Draft:
    return draft(demo.job(name))


def _measures() -> Iterator[tuple[str, Any]]:
    for measure in (*KEYS.values(), *Tooling.SAID, *Picture.SAID):
        tied = () if measure.at is None else (str(measure.at[0]), measure.at[1])
        yield measure.name, [str(measure.kind), measure.low, measure.high, str(measure.usual), measure.first, tied]


def _habits() -> Iterator[tuple[str, Any]]:
    for of in declared().values():
        yield of.name, [of.usual, of.low, of.high, of.unit, str(of.source)]


def _tables() -> Iterator[tuple[str, Any]]:
    """What is known of machines, ways of moulding and stitching, glues, rates, and the constants that are learned."""
    tables = {
        "bed": BEDS, "moulded": moulding.METHODS, "stitched": stitching.METHODS, "made": stitching.MAKINGS,
        "glue": GLUES, "learned": CONSTANTS, "mat": MATS,
    }  # fmt: skip
    for name, table in tables.items():
        yield from ((f"{name} {key}", [*_numbers(each)]) for key, each in table.items())
    yield "rates", [*_numbers(Rates())]


def _numbers(each: Any) -> Iterator[float | str]:
    """The numbers of a value, and of the mappings it has."""
    for of in fields(each):
        value = getattr(each, of.name)
        if isinstance(value, Mapping):
            yield from (f"{key} {number}" for key, number in value.items())
        elif isinstance(value, int | float):
            yield float(value)


def _notes() -> Iterator[tuple[str, Any]]:
    for note in NOTES:
        yield note.title, [(each.kind, np.array(each.points).ravel()) for each in note.picture]


def _paper() -> Iterator[tuple[str, Any]]:
    """What lies on the sheets that are printed, where, and what is written there; and all numbers of the files."""
    for name in DRAWN:
        for page in paged(_made(name).pieces, "a4"):
            lies = [(p.name, *p.cut.min(axis=0), *p.cut.max(axis=0)) for p in page.pieces]
            words = [(w.text, w.x, w.y, w.angle, w.size) for each in page.written for w in each.words]
            yield f"{name} {page.number}", {"lies": lies, "words": words, "joins": page.joins, "ticket": page.ticket}
        whole = sheet.lay(_made(name).pieces)
        lines = dxf.drawing(whole).modelspace().query("LWPOLYLINE")
        points = np.array([(p.x, p.y) for line in lines for p in line.vertices_in_wcs()])
        yield f"{name}, drawn", [points, _parts(NUMBERS.findall(svg.to_text(whole, name).encode()))]
    yield "printed", dict(_printed(pdf.to_bytes(_made("eaves-blade").pieces, "Eaves blade", "letter")))
    yield "calibration", dict(_printed(pdf.calibration("a4")))


def _parts(numbers: list[bytes]) -> list[np.ndarray]:
    """Numbers by the fifty, so that where one is off it shows; those that are no lengths are left out."""
    every = np.array(numbers, dtype=float)
    every = every[np.abs(every) < LONGEST]
    return np.array_split(every, max(len(every) // 50, 1))


def _printed(document: bytes) -> Iterator[tuple[str, list[np.ndarray]]]:
    """The numbers of what is drawn on each page."""
    with pdfplumber.open(io.BytesIO(document)) as read:
        for page in read.pages:
            inside = b" ".join(resolve1(each).get_data() for each in page.page_obj.contents)
            yield f"page {page.page_number}", _parts(NUMBERS.findall(inside))


def _sheets() -> Iterator[tuple[str, Any]]:
    """The measuring mat, marker sheets, and what an order needs, as they are printed."""
    shop = of_the_demo(DAY)
    order = shop.orders[0]
    things = ordered(order)
    priced = quote(things, shop.sorts, shop.stock, shop.terms, shop.rates)
    laying, lying = _laid()
    for name, write in {
        "mat": lambda out: mat_sheet.write(out, "a3"),
        "marker sheets": lambda out: mat_sheet.write_sheets(out),
        "order": lambda out: order_sheet.write(order, shop, out),
        "quote": lambda out: quote_sheet.write(
            priced, order.name, [(each.count, each.job.name) for each in order.lines], shop.terms, out
        ),
        "laid": lambda out: laid_sheet.write(laying, lying, out),
    }.items():
        with tempfile.TemporaryDirectory() as place:
            write(out := Path(place) / f"{name}.pdf")
            yield name, dict(_printed(out.read_bytes()))


def _laid() -> tuple[Laying, Found]:
    """A sheath laid by hand on a side, and on a shoulder."""
    hides = tuple(usual(shape, area, shape) for shape, area in (("side", 1.1), ("shoulder", 0.4)))
    pieces = tuple(templates(_made("eaves-blade"), "eaves"))
    *most, last = pieces
    lying = [Laid(piece.id, "side", False, 30.0 + 90 * n, (300.0 + 260 * n, 320.0)) for n, piece in enumerate(most)]
    lying.append(Laid(last.id, "shoulder", False, 180.0, (300.0, 350.0)))
    return Laying(hides, pieces), Found(tuple(lying), 1.0, 1)


def _leather() -> Iterator[tuple[str, Any]]:
    """Hides of usual shapes, and what is left of those that a job is laid on."""
    for shape in SHAPES:
        hide = usual(shape, 2.0, shape)
        yield shape, [hide.ring, {zone.name: zone.ring for zone in hide.zones}]
    laying, lying = _laid()
    yield "left", rests(laying, lying.laid)
    yield "laid", laid.plain(laying, lying)


def _shapes() -> Iterator[tuple[str, Any]]:
    """What pieces are to the engine that lays them: their circles, frames and covers."""
    pieces = [piece for name in ("eaves-blade", "kit-bag") for piece in templates(_made(name), name)]
    of = shapes(pieces, [0] * len(pieces), 1.5)
    for name, each in of._asdict().items():
        yield name, [np.asarray(row, dtype=float).ravel() for row in each]


def _work() -> Iterator[tuple[str, Any]]:
    """The cards for the bench, the table and the calendar of what is to be done."""
    cut = begun("cut").begun(at(18, 0)).finished(at(18, 40))
    load, plan = left(at(18, 40), cut)
    yield "cards", dict(_printed(bench_card.pdf(load, plan, Progress([cut]), "maker")))
    yield "table", bench_card.table(load, plan, Progress([cut])).split()
    yield "calendar", [line for line in calendar.to_bytes(load, plan).decode().split() if line.startswith("DT")]
    yield "told", planned.told(load)


def _photos() -> Iterator[tuple[str, Any]]:
    """How large what is seen in photos is."""
    for seed, (height, tilt) in enumerate([(9.0, 4.0), (31.0, 17.0)]):
        shot = Shot(size=(1700, 1275), tilt=tilt, around=140 * seed, focal=30 + 25 * seed, shadow=0.35, seed=seed)
        taken = photograph([prism(np.add(ROUNDED, 60.0), height, (92, 70, 48))], shot, "a4")
        photo = cv2.imdecode(np.frombuffer(taken, np.uint8), cv2.IMREAD_COLOR)
        lens = Lens(Lens.equivalent(round(shot.focal), *shot.size), NOMINAL)
        found = trace(look(photo, lens), Rise.level(height))
        yield f"photo {seed}", [*_sizes(found.outline), found.error, float(found.view.eye[2]) / 100]
    hide = usual("shoulder", 0.9, "shoulder").ring
    sheets = about(hide, np.random.default_rng(4))
    over = Over((1500, 1125), tilt=9, floor="boards", leather="brown", seed=4)
    taken = hide_camera.photograph(hide, sheets, over)
    photo = cv2.imdecode(np.frombuffer(taken, np.uint8), cv2.IMREAD_COLOR)
    spread = spread_out(photo, seen_by_sheets(photo, Lens(1150.0, 0.05)))
    yield "hide", [*_sizes(spread.ring / 10), 10 * spread.sure]


def _sizes(ring: np.ndarray) -> list[float]:
    return [*np.ptp(ring, axis=0).tolist(), shapely.Polygon(ring).area / 100]


def _scanned() -> Iterator[tuple[str, Any]]:
    ink = np.full((420, 560, 3), 255, np.uint8)
    cv2.ellipse(ink, (160, 200), (110, 70), 20, 0, 360, BLACK, 3)
    cv2.polylines(ink, [np.array([(330, 60), (500, 90), (420, 330)])], True, BLACK, 4)
    cv2.line(ink, (40, 390), (520, 380), BLACK, 3)
    cv2.circle(ink, (530, 30), 1, BLACK, -1)  # a speck
    for n, line in enumerate(scanned.traced(ink, 200.0)):
        yield f"line {n}", line


def _measured() -> Iterator[tuple[str, Any]]:
    """Station tables, from outlines, solids and sizes."""
    by_hand = Capture.usual(Way.CALIPER)
    yield "outline", outline.stations(outline.laid(ROUNDED), 8.0, by_hand).stations
    ring = shapely.get_coordinates(shapely.Polygon(ROUNDED).segmentize(1.0))[:-1]
    faired, off = outline.faired(outline.sound(ring + 0.2 * np.sin(np.arange(len(ring)))[:, None]), 0.3)
    yield "faired", [faired, off, outline.curvature(faired), outline.corners(faired)]
    evened, unlike = outline.evened(outline.laid(ROUNDED))
    yield "evened", [evened, unlike]
    solid = trimesh.creation.capsule(height=90, radius=14, count=[48, 48])
    solid.apply_transform(trimesh.transformations.rotation_matrix(0.6, [1, 2, 3]))
    table, off = mesh.stations(mesh.laid(mesh.sound(solid.vertices, solid.faces)))
    yield "solid", [table.stations, off]
    yield "block", block.block(105, 38, 16, 3).stations
    yield "cylinder", block.cylinder(140, 34).stations


def _looks() -> Iterator[tuple[str, Any]]:
    for name in ("eaves-blade", "radio"):
        for eye in Eye:
            relief = seen(_made(name), eye, 2.0)
            heights = relief.height[np.isfinite(relief.height)]
            lit = np.asarray(relief.lit((140, 90, 50), (120, 130, 140)), dtype=float)
            yield f"{name} {eye}", [heights, relief.across, relief.up, lit.mean(axis=(0, 1)), lit.std(axis=(0, 1))]
    closing = Closing(Assembled(_made("laser-level").unmarked()), DYES)
    for share in (0.4, len(closing.steps) - 0.3):
        solids = closing.at(share)
        picture = drawn(solids, Sight(30.0, 40.0, solids.corners.mean(axis=0), 1.5), (240, 180)).astype(float)
        yield f"closing at {share:.1f}", [solids.corners, picture.mean(axis=(0, 1)), picture.std(axis=(0, 1))]


def _advised() -> Iterator[tuple[str, Any]]:
    radio = demo.job("radio")
    for way in ways_out(radio, _made("radio")):
        yield f"way out: {way.said}", [way.load, way.stretch, way.gather, way.stretch_limit, way.gather_limit]
    offered, refused = picks(job_of(10))
    for offer in offered:
        yield f"offered: {offer.style}", [offer.mark, offer.stops, offer.looks, offer.leather, offer.minutes]
    yield "refused", [each.style for each in refused]


def _told() -> Iterator[tuple[str, Any]]:
    """What is made of words, and which causes are thought of."""
    words = [(1.0, Fit.TIGHT, When.NEW), (1.6, Fit.RIGHT, When.WEEK), (1.4, Fit.RIGHT, When.NEW, 1.3, 0.15)]
    said = [Said("blade", drafted, fit, when, DAY, *gap) for drafted, fit, when, *gap in words]
    yield "wish", wish(said, 1.2)
    for name in ("eaves-blade", "spar-hook"):
        job = demo.job(name)
        one = sight(job, _made(name))
        those = causes(job, one.made, one.there, lambda what, share: None)
        yield f"{name}, seen", [one.spots, one.there, one.besides]
        yield f"{name}, causes", {each.name: [each.usual, each.room, each.tells] for each in those}
        entry = Entry("e", DAY, job)
        for place, fit in ((Place.MOUTH, Fit.RIGHT), (Place.BELLY, Fit.LOOSE), (Place.TIP, Fit.TIGHT)):
            entry = entry.felt(place, fit)
        found = wrong(entry, those, (*one.there, *one.besides))
        suspects = {each.name: [each.share, each.amount] for each in found.suspects}
        yield f"{name}, found", [found.measure, found.doubt, suspects]


ELSE: dict[str, Callable[[], Iterator[tuple[str, Any]]]] = {
    "measures": _measures, "habits": _habits, "tables": _tables, "pictures of the notes": _notes, "paper": _paper,
    "sheets": _sheets, "leather": _leather, "shapes": _shapes, "work": _work,
    "photos": _photos, "scanned": _scanned, "measured": _measured, "looks": _looks, "advised": _advised, "told": _told,
}  # fmt: skip
NEARLY = {"photos": 0.12, "looks": 0.05}  # mm, or of 255: another machine may see them a little otherwise
