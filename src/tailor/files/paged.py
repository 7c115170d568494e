"""Paged: pieces put on sheets of paper: whole where they fit, side by side; else parted into as few as will hold them.

A ticket, with the check square and the map of the sheets, goes where there is room for it, and that sheet is the first.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
import shapely

from tailor.core.draft.piece import Piece, turned
from tailor.core.errors import InputError
from tailor.core.packing import sheets
from tailor.files import faces
from tailor.files.lettering import Lettering, is_own, is_pinned, lettered
from tailor.files.paper import PAPERS

BORDER = 10.0  # mm that no printer is trusted to reach
FOOT = 12.0  # mm at the foot of the page for its words
OVERLAP = 10.0  # mm that neighbouring sheets share
GAP = 6.0  # mm between pieces on a sheet
LETTERS = 3.2  # mm
TICKET = 106.0, 106.0  # mm that the check square, with the map in it, takes across and up
TRIED = 9  # places, across and up, where room for the ticket is looked for

Window = tuple[float, float, float, float]


@dataclass(frozen=True)
class Page:
    """One sheet. pieces: what lies on it, mm from the lower left corner of what it shows; written: on each of them.

    joins: the numbers of the sheets that it meets, by the side that they lie on. ticket: lower left corner of the check
    square and the map, on the first.
    """

    number: int
    pieces: tuple[Piece, ...]
    written: tuple[Lettering, ...]
    joins: tuple[tuple[str, int], ...] = ()
    ticket: tuple[float, float] | None = None


def room_of(paper: str) -> tuple[float, float]:
    """What a sheet shows, across and up, mm. Raises InputError for a paper that is not known."""
    if paper not in PAPERS:
        raise InputError(f"'{paper}' is not a paper", "--paper", f"give {' or '.join(PAPERS)}")
    width, height = PAPERS[paper]
    return width - 2 * BORDER, height - 2 * BORDER - FOOT


def paged(pieces: Sequence[Piece], paper: str) -> tuple[Page, ...]:
    """The sheets for pieces, the one with the ticket first."""
    room = room_of(paper)
    small, large = list[Piece](), list[Piece]()
    for piece in pieces:
        wide, high = np.ptp(piece.cut, axis=0)
        if wide <= room[0] and high <= room[1]:
            small.append(piece)
        elif high <= room[0] and wide <= room[1]:
            small.append(turned(piece, 90.0))
        else:
            large.append(piece)
    parted = [page for piece in large for page in _parted(piece, room)]
    ticketed = next((k for k, page in enumerate(parted) if _spare(page, room) is not None), None)
    with_ticket = _packed(small, room, ticket=True)
    if ticketed is not None and len(with_ticket) > len(_packed(small, room, ticket=False)):
        return _numbered(parted, _packed(small, room, ticket=False), ticketed, room)
    return _numbered(with_ticket, parted, 0, room)


def _numbered(first: list[Page], rest: list[Page], ticketed: int, room: tuple[float, float]) -> tuple[Page, ...]:
    """Sheets in order, numbered from 1: the one with the ticket first, those that join each other together."""
    own = [*first, *rest]
    order = [ticketed, *(k for k in range(len(own)) if k != ticketed)]
    number = {own[k].number: n for n, k in enumerate(order, 1)}
    made = []
    for k in order:
        page = own[k]
        joins = tuple((side, number[other]) for side, other in page.joins)
        ticket = page.ticket or (_spare(page, room) if k == ticketed else None)
        made.append(replace(page, number=number[page.number], joins=joins, ticket=ticket))
    return tuple(made)


def _packed(pieces: Sequence[Piece], room: tuple[float, float], ticket: bool) -> list[Page]:
    """Whole pieces on as few sheets as they fit, with the ticket among them or not."""
    lows = [piece.cut.min(axis=0) for piece in pieces]
    sizes = [np.minimum(np.ptp(piece.cut, axis=0) + GAP, room) for piece in pieces] + [np.array(TICKET)] * ticket
    if not sizes:
        return []
    found = sheets(np.array(sizes), room, first=len(pieces) if ticket else 0)
    pages = []
    for sheet in range(1 + max(on for on, _ in found)):
        mine = [k for k, (on, _) in enumerate(found) if on == sheet]
        lying = tuple(pieces[k].moved(found[k][1] - lows[k]) for k in mine if k < len(pieces))
        spot = next(((float(found[k][1][0]), float(found[k][1][1])) for k in mine if k == len(pieces)), None)
        written = lettered([*lying, *_blank(spot)], LETTERS, faces.wide, within=(0.0, 0.0, *room))
        pages.append(Page(id(lying), lying, written[: len(lying)], (), spot))
    return pages


def _blank(ticket: tuple[float, float] | None) -> tuple[Piece, ...]:
    """The ticket, as what words beside a piece keep clear of."""
    if ticket is None:
        return ()
    (x, y), (wide, high) = ticket, TICKET
    corners = np.array([(x, y), (x + wide, y), (x + wide, y + high), (x, y + high)])
    return (Piece("ticket", 1, "paper", 0.1, "grain", corners),)


def _parted(piece: Piece, room: tuple[float, float]) -> list[Page]:
    """A piece that is larger than a sheet on as few as hold it, upright or on its side; none is left empty."""
    ways = [_tiles(each, room) for each in (piece, turned(piece, 90.0))]
    whole, tiles = min(ways, key=lambda way: len(way[1]))
    shape = shapely.Polygon(whole.cut)
    shown = {at: shape.intersection(shapely.box(*box)) for at, box in tiles.items()}
    best = max(shown, key=lambda at: float(shown[at].area))
    ids = {at: id(piece) + 7919 * k for k, at in enumerate(tiles, 1)}
    pages = []
    for (column, row), box in tiles.items():

        def mine(mark_x: float, mark_y: float, own: bool, at: tuple[int, int] = (column, row)) -> bool:
            if not own:
                return at == best
            holds = [k for k, b in tiles.items() if shapely.box(*b).contains(shapely.Point(mark_x, mark_y))]
            return bool(holds) and at == holds[-1]

        marks = tuple(m for m in whole.marks if mine(m.x, m.y, is_own(m) or is_pinned(m) or not m.text))
        part = max(shapely.get_parts(shown[column, row]), key=lambda p: float(p.area))
        outline = shapely.get_coordinates(part.exterior)[:-1]
        grain = whole.grain if (column, row) == best else None
        clipped = replace(whole, cut=outline, marks=marks, grain=grain)
        shift = np.array([-box[0], -box[1]])
        written = lettered([clipped.moved(shift)], LETTERS, faces.wide, within=(0.0, 0.0, *room))
        window = shapely.box(0, 0, *room)
        kept = tuple(w for w in written[0].words if window.contains(shapely.Polygon(w.corners(faces.wide))))
        beside = {"left": (column - 1, row), "right": (column + 1, row), "above": (column, row - 1),
                  "below": (column, row + 1)}  # fmt: skip
        joins = tuple((side, ids[other]) for side, other in beside.items() if other in tiles)
        pages.append(Page(ids[column, row], (whole.moved(shift),), (replace(written[0], words=kept),), joins))
    return pages


def _tiles(piece: Piece, room: tuple[float, float]) -> tuple[Piece, dict[tuple[int, int], Window]]:
    """The windows of a piece's sheets, by column and row from the upper left, that show any of it."""
    low, high = piece.cut.min(axis=0), piece.cut.max(axis=0)
    step = np.array(room) - OVERLAP
    columns, rows = (np.maximum(np.ceil((high - low - OVERLAP) / step), 1)).astype(int)
    shape, found = shapely.Polygon(piece.cut), {}
    for row in range(rows):
        for column in range(columns):
            x, y = float(low[0] + column * step[0]), float(high[1] - room[1] - row * step[1])
            if shape.intersects(shapely.box(x, y, x + room[0], y + room[1])):
                found[column, row] = (x, y, x + room[0], y + room[1])
    return piece, found


def _spare(page: Page, room: tuple[float, float]) -> tuple[float, float] | None:
    """Where the ticket has room on a sheet; None where it has none."""
    lying = shapely.union_all([shapely.Polygon(p.cut).buffer(GAP) for p in page.pieces])
    xs, ys = (np.linspace(0.0, room[k] - TICKET[k], TRIED) for k in (0, 1))
    if page.joins:  # clear of the overlaps
        xs, ys = (np.linspace(OVERLAP, room[k] - OVERLAP - TICKET[k], TRIED) for k in (0, 1))
    x, y = (each.ravel() for each in np.meshgrid(xs, ys))
    free = ~shapely.intersects(lying, shapely.box(x, y, x + TICKET[0], y + TICKET[1]))
    return (float(x[free][0]), float(y[free][0])) if free.any() else None
