"""Paged: the sheets of paper that pieces are printed on, each with what lies on it and what is written there.

A ticket, with the check square and the map of the sheets, goes where there is room for it, and that sheet is the first.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass, field, replace

import numpy as np
import shapely
from shapely import affinity

from tailor.core.draft.piece import Piece
from tailor.core.errors import InputError
from tailor.files import faces
from tailor.files.joined import Joined, Paper, Spot, free_spot, laid
from tailor.files.lettering import Lettering, is_own, is_pinned, lettered
from tailor.files.paper import PAPERS

BORDER = 10.0  # mm that no printer is trusted to reach
FOOT = 12.0  # mm at the foot of the page for its words
OVERLAP = 10.0  # mm that neighbouring sheets share
GAP = 6.0  # mm between pieces on a sheet
LETTERS = 3.2  # mm
TICKET = 106.0, 106.0  # mm that the check square, with the map in it, takes across and up
SCRAP = 400.0  # mm² of a piece, on which nothing is written
BLANK = "paper"  # what the ticket is of


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


@dataclass
class _Sheet:
    """A sheet while it is filled. parts: pieces that go over several, whole and as they show on it, mm from its lower
    left corner; whole: what lies on it besides; joins: the sheets it meets, by their sides.
    """

    room: tuple[float, float]
    at: tuple[int, Spot] | None = None
    parts: tuple[tuple[Piece, Piece], ...] = ()
    whole: list[Piece] = field(default_factory=list)
    joins: tuple[tuple[str, tuple[int, Spot]], ...] = ()

    @property
    def within(self) -> tuple[float, float, float, float]:
        """Where whole pieces may lie."""
        return _unshared(self.room, {side for side, _ in self.joins})

    @property
    def lying(self) -> list[shapely.Polygon]:
        return [shapely.Polygon(piece.cut) for piece in (*(whole for whole, _ in self.parts), *self.whole)]

    @property
    def ticketed(self) -> bool:
        return any(piece.leather == BLANK for piece in self.whole)


def paged(pieces: Sequence[Piece], paper: str) -> tuple[Page, ...]:
    """The sheets for pieces, the one with the ticket first."""
    sheet = Paper(room_of(paper), OVERLAP, GAP)
    small, large = laid(pieces, sheet)
    small = sorted(small, key=lambda piece: -float(np.prod(np.ptp(piece.cut, axis=0))))
    ticket = Piece("ticket", 1, BLANK, 0.1, "grain", np.array([(0.0, 0.0), (TICKET[0], 0.0), TICKET, (0.0, TICKET[1])]))
    first, last = (_filled(large, each, sheet) for each in ([ticket, *small], [*small, ticket]))
    sheets = sorted(first if len(first) <= len(last) else last, key=lambda each: not each.ticketed)
    numbers = {each.at: n for n, each in enumerate(sheets, 1)}
    return tuple(_page(n, each, numbers) for n, each in enumerate(sheets, 1))


def _unshared(room: tuple[float, float], sides: Collection[str]) -> tuple[float, float, float, float]:
    """What a sheet does not share with others on some sides of it: left, low, right and high, mm."""
    left, below, right, above = (OVERLAP * (side in sides) for side in ("left", "below", "right", "above"))
    return left, below, room[0] - right, room[1] - above


def _filled(large: Sequence[Joined], small: Sequence[Piece], paper: Paper) -> list[_Sheet]:
    """Sheets with pieces that go over several, and the others where there is room; on new ones where there is none."""
    sheets = [sheet for k, joined in enumerate(large) for sheet in _parted(k, joined)]
    for piece in small:
        for sheet in sheets:
            lies = free_spot(piece, sheet.lying, sheet.within, paper)
            if lies is not None:
                sheet.whole.append(lies)
                break
        else:
            corner = piece.cut.min(axis=0)
            sheets.append(_Sheet(paper.room, whole=[piece.moved(-corner)]))
    return sheets


def _parted(number: int, joined: Joined) -> list[_Sheet]:
    """The sheets of those that are joined, with what each shows; words stand where the most of a piece does."""
    parts: dict[Spot, list[tuple[Piece, Piece]]] = {at: [] for at in joined.spots}
    for piece in joined.pieces:
        shape = shapely.Polygon(piece.cut)
        shown = {at: shape.intersection(joined.window(at)) for at in joined.spots}
        best = max(shown, key=lambda at: float(shown[at].area))
        for at, part in shown.items():
            if part.area <= 0:
                continue
            marks = tuple(
                m for m in piece.marks
                if at == (_holds(joined, (m.x, m.y)) if is_own(m) or is_pinned(m) or not m.text else best)
            )  # fmt: skip
            alone = shapely.box(*_unshared(joined.paper.room, joined.beside(at).keys()))
            own = shape.intersection(affinity.translate(alone, *joined.low(at)))  # words keep clear of what is joined
            largest = max(shapely.get_parts(part if own.area < SCRAP else own), key=lambda each: float(each.area))
            outline = shapely.get_coordinates(largest.exterior)[:-1]
            seen = replace(piece, cut=outline, marks=marks, grain=piece.grain if at == best else None)
            parts[at].append((piece.moved(-joined.low(at)), seen.moved(-joined.low(at))))
    return [
        _Sheet(joined.paper.room, (number, at), tuple(own), [], tuple(
            (side, (number, other)) for side, other in joined.beside(at).items()))
        for at, own in parts.items()
    ]  # fmt: skip


def _holds(joined: Joined, place: tuple[float, float]) -> Spot | None:
    """The last of the sheets that a place lies on."""
    return next((at for at in reversed(joined.spots) if joined.window(at).contains(shapely.Point(place))), None)


def _page(number: int, sheet: _Sheet, numbers: dict[tuple[int, Spot] | None, int]) -> Page:
    window = shapely.box(0.0, 0.0, *sheet.room)
    written = lettered(
        [*(shown for _, shown in sheet.parts), *sheet.whole], LETTERS, faces.wide, within=(0.0, 0.0, *sheet.room)
    )
    pieces, words, ticket = list[Piece](), list[Lettering](), None
    for piece, own in zip([*(whole for whole, _ in sheet.parts), *sheet.whole], written, strict=True):
        if piece.leather == BLANK:
            x, y = piece.cut.min(axis=0).tolist()
            ticket = x, y
        else:
            kept = tuple(w for w in own.words if window.covers(shapely.Polygon(w.corners(faces.wide))))
            pieces.append(piece)
            words.append(replace(own, words=kept))
    joins = tuple((side, numbers[other]) for side, other in sheet.joins)
    return Page(number, tuple(pieces), tuple(words), joins, ticket)
