"""A hide spread out on the floor: its outline out of a photo, told from the floor by its colour."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Protocol

import cv2
import numpy as np
import scipy
import shapely
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.sheets import SIDE, WHERE, Floor, floor
from tailor.core.carried.photo.view import Image, Lens
from tailor.core.errors import InputError

COARSE, FINE = 0.125, 1.0  # px to the mm: where the hide is told from the floor, and where its edge is followed
PICTURE = 0.25  # px to the mm of the picture that is kept
BAND = 24.0  # mm to either side of the coarse edge, in which the fine one is looked for
AROUND = 60.0  # mm beyond that, whose colours tell the one from the other
FEWER = 8  # px of the fine picture to one of that in which such colours, which change slowly, are gathered
SMOOTH = 2.5  # mm over which the edge is smoothed
HEART = 0.06  # of the way between the sheets, about their middle, that is surely hide
BEYOND = 600.0  # mm beyond the sheets that a hide may reach
WIDEST = 9_000.0  # mm of floor that are looked at
SMALLEST = 0.02e6  # mm²: less is no hide
TAPE = 12.0  # times the small square of a taped point, that the tape itself covers
TAPED = 0.02  # how sure an area by four taped points is at best, as a share: lenses bend, and tapes sag
MISSED = 0.03  # of the longest, that lengths may miss one another by
EVERY = 16  # px of the floor between two that are found in the photo
FAR, LEAST_TURN = 1e5, 0.05  # px that a point may lie off; sine of how sharply one turns at it, at the least
OWN, LOST = (
    0.93,
    0.04,
)  # share of each side that has its own colour, at the least; of the edge that is lost, at the most
VAGUE = 0.03  # how unsure an area may be, as a share
ROUNDS = 6  # of telling hide from floor
Mask = NDArray[np.bool_]
Tell = Callable[[str, float], object]


class Plane(Protocol):
    """A floor that is seen in a photo: by marker sheets, or by taped points. rings: what it is known by; covers: what
    lies there and is no hide, (n, 2) each.
    """

    @property
    def rings(self) -> tuple[Array, ...]: ...

    @property
    def covers(self) -> tuple[Array, ...]: ...

    def on_floor(self, pixels: Array) -> Array:
        """Where pixels (n, 2) are on the floor, mm."""
        ...

    def project(self, points: Array) -> Array:
        """Where places (n, 2) on the floor are in the photo, px."""
        ...

    def sure(self, ring: Array) -> float:
        """How sure the area of a ring (n, 2) px is, as a share of it."""
        ...


@dataclass(frozen=True)
class Lying:
    """ring: (n, 2) mm on the floor, open, counter-clockwise. area: mm²; sure: by how much it may be off, as a share.

    picture: (h, w, 3) of the floor seen straight down, BGR; left, top: mm where it begins, at grain px to the mm.
    """

    ring: Array
    area: float
    sure: float
    picture: Image
    left: float
    top: float
    grain: float


@dataclass(frozen=True)
class _Down:
    """The floor seen straight down: colours (h, w, 3), how to get between its px and mm, and whether the photo shows it
    there, (h, w).
    """

    colours: Image
    left: float
    top: float
    grain: float
    there: Mask = field(default_factory=lambda: np.zeros((0, 0), dtype=np.bool_))

    def to_mm(self, px: Array) -> Array:
        return np.column_stack([self.left + (px[:, 0] + 0.5) / self.grain, self.top - (px[:, 1] + 0.5) / self.grain])

    def to_px(self, mm: Array) -> Array:
        return np.column_stack([mm[:, 0] - self.left, self.top - mm[:, 1]]) * self.grain - 0.5


def seen_by_sheets(photo: Image, lens: Lens, side: float = SIDE) -> Floor:
    """The floor in a photo (h, w, 3) BGR, by the marker sheets on it. As `floor`, which it asks."""
    return floor(np.asarray(cv2.cvtColor(photo, cv2.COLOR_BGR2GRAY), dtype=np.uint8), lens, side)


def spread_out(photo: Image, view: Plane, tell: Tell = lambda said, share: None) -> Lying:
    """The outline of a hide in a photo (h, w, 3) BGR of a floor. Raises InputError where no hide can be told."""
    tell("telling the hide from the floor", 0.4)
    coarse = _down(photo, view, COARSE)
    mask = _hide(coarse, view)
    tell("following its edge", 0.8)
    fine = _down(photo, view, FINE)
    rough = cv2.resize(mask.astype(np.uint8), fine.colours.shape[1::-1], interpolation=cv2.INTER_NEAREST).astype(bool)
    whole = _followed(fine, rough, view)
    lines, _ = cv2.findContours(whole.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    line = max(lines, key=cv2.contourArea)[:, 0].astype(float)
    ring = _smoothed(fine.to_mm(line), SMOOTH * FINE)
    whole_ring = shapely.orient_polygons(shapely.Polygon(ring))
    if whole_ring.area < SMALLEST:
        raise InputError("no hide stands out from the floor", WHERE, "lay it on a floor of another colour")
    ring = np.asarray(whole_ring.exterior.coords)[:-1]
    sure = view.sure(view.project(ring))
    if sure > VAGUE:
        raise InputError(
            f"its area could only be told to {sure:.0%}", WHERE, "lay out more sheets, or take a larger, sharper photo"
        )  # fmt: skip
    kept = _down(photo, view, PICTURE)
    return Lying(ring, float(whole_ring.area), sure, kept.colours, kept.left, kept.top, PICTURE)


def _down(photo: Image, view: Plane, grain: float) -> _Down:
    """All of the floor that is seen, straight down."""
    high, wide = photo.shape[:2]
    every = np.vstack(view.rings)
    (left, low), (right, top) = every.min(axis=0) - BEYOND, every.max(axis=0) + BEYOND
    if max(right - left, top - low) > WIDEST:
        raise InputError(
            f"the sheets lie {max(right - left, top - low) / 1000:.0f} m apart", WHERE, "lay them about the hide alone"
        )
    shape = int(np.ceil((top - low) * grain)), int(np.ceil((right - left) * grain))
    found = _Down(np.zeros((0, 0, 3), np.uint8), float(left), float(top), grain)
    x, y = _in_photo(found, view, shape)
    finer = float(np.hypot(*(np.ptp(view.project(np.array([[0.0, 0.0], [10 / grain, 0.0]])), axis=0)))) / 10
    soft = cv2.GaussianBlur(photo, (0, 0), finer / 2.5) if finer > 1.5 else photo
    seen = cv2.remap(soft, x, y, cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    there = (x >= 0) & (y >= 0) & (x <= wide - 1) & (y <= high - 1)
    return _Down(np.asarray(seen, dtype=np.uint8), float(left), float(top), grain, there)


def _in_photo(down: _Down, view: Plane, shape: tuple[int, int]) -> tuple[NDArray[np.float32], NDArray[np.float32]]:
    """x and y in the photo of each px of the floor seen straight down, (h, w): between every few, in proportion."""

    def between(count: int) -> tuple[Array, NDArray[np.float32]]:
        few = np.linspace(0, count - 1, count // EVERY + 2)
        each = np.arange(count)
        left = np.clip(np.searchsorted(few, each, side="right") - 1, 0, len(few) - 2)
        share = (each - few[left]) / (few[left + 1] - few[left])
        weights = np.zeros((count, len(few)))
        weights[each, left], weights[each, left + 1] = 1 - share, share
        return few, weights.astype(np.float32)

    (rows, down_by), (columns, across_by) = between(shape[0]), between(shape[1])
    x, y = np.meshgrid(columns, rows)
    few = view.project(down.to_mm(np.column_stack([x.ravel(), y.ravel()]))).reshape(*x.shape, 2)
    along, up = (down_by @ few[..., k].astype(np.float32) @ across_by.T for k in (0, 1))
    return along, up


def _paper(down: _Down, view: Plane) -> Mask:
    """Where something lies that is no hide."""
    seen = np.zeros(down.colours.shape[:2], dtype=np.uint8)
    for ring in view.covers:
        cv2.fillConvexPoly(seen, np.round(down.to_px(ring)).astype(np.int32), 1)
    return seen.astype(bool)


def _hide(down: _Down, view: Plane) -> Mask:
    """Where the hide is, coarsely: what is like the middle and unlike the border."""
    high, wide = down.colours.shape[:2]
    paper = _paper(down, view)
    labels = np.full((high, wide), cv2.GC_PR_BGD, dtype=np.uint8)
    middles = down.to_px(np.array([ring.mean(axis=0) for ring in view.rings]))
    middle, reach = middles.mean(axis=0), max(float(np.ptp(middles, axis=0).max()), 1.0)
    y, x = np.mgrid[0:high, 0:wide]
    away = np.hypot(x - middle[0], y - middle[1]) / reach
    labels[away < 0.35] = cv2.GC_PR_FGD
    labels[away < HEART] = cv2.GC_FGD
    labels[~down.there] = cv2.GC_BGD
    labels[paper] = cv2.GC_BGD
    cv2.setRNGSeed(1)
    soft = cv2.bilateralFilter(down.colours, 7, 40, 5)
    cv2.grabCut(soft, labels, None, np.zeros((1, 65)), np.zeros((1, 65)), ROUNDS, cv2.GC_INIT_WITH_MASK)
    there = np.isin(labels, (cv2.GC_FGD, cv2.GC_PR_FGD)).astype(np.uint8)
    disc = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (5, 5))
    return _great(cv2.morphologyEx(there, cv2.MORPH_OPEN, disc))


def _followed(down: _Down, rough: Mask, view: Plane) -> Mask:
    """The hide, finely: in a band along its coarse edge each place by whose colours it has, those near it counting."""
    inside, outside = (
        cv2.distanceTransform(where.astype(np.uint8), cv2.DIST_L2, cv2.DIST_MASK_PRECISE) > BAND * down.grain
        for where in (rough, ~rough)
    )
    paper = _paper(down, view)
    colours = cv2.GaussianBlur(down.colours, (0, 0), 1.2)
    high, wide = rough.shape
    few = max(wide // FEWER, 1), max(high // FEWER, 1)
    reach = int(2 * AROUND * down.grain / FEWER) | 1

    def mean(where: Mask) -> tuple[NDArray[np.float32], Mask]:
        mask = 255 * where.astype(np.uint8)
        total, weight = (
            cv2.blur(cv2.resize(part, few, interpolation=cv2.INTER_AREA).astype(np.float32), (reach, reach))
            for part in (cv2.bitwise_and(colours, colours, mask=mask), mask)
        )
        return total * (255 / np.maximum(weight, 1e-3))[..., None], weight * (reach * FEWER) ** 2 > 255

    hide, near_hide = mean(inside)
    ground, near_ground = mean(outside & ~paper)
    # How much nearer a colour c is to the hide's own h than to the ground's g: 2 (h - g) c - (h² - g²).
    way, half = hide - ground, (ground**2 - hide**2).sum(axis=2)
    share = cv2.resize(np.dstack([2 * way, half]), (wide, high), interpolation=cv2.INTER_LINEAR)
    apart = share[..., 3]
    for k in range(3):
        apart += share[..., k] * colours[..., k]
    both = (near_hide & near_ground).astype(np.uint8)
    told = cv2.resize(both, (wide, high), interpolation=cv2.INTER_NEAREST).astype(bool)
    is_hide = np.where(told, cv2.GaussianBlur(apart, (0, 0), 1.5) > 0, rough)
    is_hide &= down.there
    found = np.where(inside, True, np.where(outside, False, is_hide)) & ~(paper & ~inside)
    whole = _great(cv2.morphologyEx(found.astype(np.uint8), cv2.MORPH_OPEN, np.ones((3, 3), np.uint8)))
    _stands_out(inside & told & (apart != 0), outside & told & ~paper & down.there, apart)
    _ends(whole, inside, outside, paper, down.there)
    return whole


def _stands_out(inside: Mask, outside: Mask, apart: NDArray[np.float32]) -> None:
    """Whether what surely is hide, and surely floor, near the edge has each its own colour. Raises InputError."""
    own = (float((apart[inside] > 0).mean()) if inside.any() else 0.0,
           float((apart[outside] < 0).mean()) if outside.any() else 0.0)  # fmt: skip
    if min(own) < OWN:
        raise InputError("the hide does not stand out from the floor", WHERE, "lay it on a floor of another colour")


def _ends(whole: Mask, inside: Mask, outside: Mask, paper: Mask, there: Mask) -> None:
    """Whether its edge is seen all round, and found where it was looked for. Raises InputError."""
    near = np.ones((7, 7), np.uint8)
    edge = whole & ~cv2.erode(whole.astype(np.uint8), np.ones((3, 3), np.uint8)).astype(bool)
    if (edge & cv2.dilate((~there).astype(np.uint8), near).astype(bool)).any():
        raise InputError("the hide goes on beyond the photo", WHERE, "keep all of it in view, with some floor about it")
    limits = cv2.dilate(inside.astype(np.uint8), near) | cv2.dilate(outside.astype(np.uint8), near)
    lost = edge & limits.astype(bool) & ~cv2.dilate(paper.astype(np.uint8), near).astype(bool)
    if lost.sum() > LOST * edge.sum():
        raise InputError(
            "its edge cannot be followed", WHERE, "lay it flat, on a floor of another colour, in even light"
        )


def _great(mask: Image) -> Mask:
    """The largest piece of a mask, with its holes filled."""
    count, labels, facts, _ = cv2.connectedComponentsWithStats(mask, connectivity=4)
    if count < 2:
        raise InputError("no hide stands out from the floor", WHERE, "lay it on a floor of another colour")
    k = 1 + int(facts[1:, cv2.CC_STAT_AREA].argmax())
    outer, _ = cv2.findContours((labels == k).astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return np.asarray(cv2.drawContours(np.zeros_like(mask), outer, -1, 1, cv2.FILLED), dtype=np.uint8).astype(bool)


def _smoothed(line: Array, by: float) -> Array:
    """A closed line (n, 2) with what is as small as a px smoothed away, and no more corners than it needs."""
    count = int(6 * by) | 1
    weights = np.exp(-0.5 * (np.arange(-(count // 2), count // 2 + 1) / by) ** 2)
    weights /= weights.sum()
    rounds = np.pad(line, ((count // 2, count // 2), (0, 0)), mode="wrap")
    soft = np.column_stack([np.convolve(rounds[:, k], weights, mode="valid") for k in (0, 1)])
    kept = cv2.approxPolyDP(soft.astype(np.float32)[:, None], 0.4, True)[:, 0]
    return np.asarray(kept, dtype=float)


@dataclass(frozen=True)
class Taped:
    """The floor by four taped points. plane: (3, 3) from px to mm; rings: the points, as small squares; off: by how
    much the lengths miss one another, as a share.
    """

    plane: Array
    rings: tuple[Array, ...]
    off: float

    @property
    def covers(self) -> tuple[Array, ...]:
        return tuple(ring.mean(axis=0) + TAPE * (ring - ring.mean(axis=0)) for ring in self.rings)

    def on_floor(self, pixels: Array) -> Array:
        return np.asarray(cv2.perspectiveTransform(np.asarray(pixels, dtype=float)[:, None], self.plane)[:, 0])

    def project(self, points: Array) -> Array:
        back = np.linalg.inv(self.plane)
        return np.asarray(cv2.perspectiveTransform(np.asarray(points, dtype=float)[:, None], back)[:, 0])

    def sure(self, ring: Array) -> float:
        return 2 * self.off + TAPED


def _goes_round(spots: Array) -> bool:
    """Whether points (4, 2) px are corners one after another, none of them between others."""
    ways = np.roll(spots, -1, axis=0) - spots
    after = np.roll(ways, -1, axis=0)
    turns = (ways[:, 0] * after[:, 1] - ways[:, 1] * after[:, 0]) / np.maximum(
        np.hypot(*ways.T) * np.hypot(*after.T), 1e-9)  # fmt: skip
    return bool(np.abs(turns.sum()) == np.abs(turns).sum() and (np.abs(turns) > LEAST_TURN).all())


def by_tape(pixels: Sequence[tuple[float, float]], lengths: Sequence[float]) -> Taped:
    """The floor by four taped points: their pixels, one after another round the hide, and six lengths between them, mm:
    the four sides from the first to the second and so on round, and the diagonals from the first and from the second.

    Raises InputError where there are not so many, or they fit no four points.
    """
    spots, sides = np.asarray(pixels, dtype=float), np.asarray(lengths, dtype=float)
    if spots.shape != (4, 2) or sides.shape != (6,) or not ((sides > 0) & (sides < WIDEST)).all():
        raise InputError("four points and six lengths are wanted", WHERE, "give the four sides, then the two diagonals")
    if not (np.abs(spots) < FAR).all() or not _goes_round(spots):
        raise InputError("the points do not go round a hide", WHERE, "give four corners, one after another round it")
    pairs = np.array([(0, 1), (1, 2), (2, 3), (3, 0), (0, 2), (1, 3)])

    def misses(values: Array) -> Array:
        at = values.reshape(4, 2)
        return np.asarray(np.hypot(*(at[pairs[:, 0]] - at[pairs[:, 1]]).T) - sides)

    begun = (spots - spots.mean(axis=0)) * [1.0, -1.0]
    begun *= sides.mean() / max(np.hypot(*(begun[pairs[:, 0]] - begun[pairs[:, 1]]).T).mean(), 1e-9)
    found = scipy.optimize.least_squares(misses, begun.ravel())
    worst = float(np.abs(found.fun).max())
    if worst > MISSED * sides.max():
        raise InputError(f"the lengths miss one another by {worst:.0f} mm", WHERE, "measure them again, in their order")
    at = found.x.reshape(4, 2)
    plane = cv2.getPerspectiveTransform(spots.astype(np.float32), at.astype(np.float32))
    square = np.array([[-1.0, -1], [1, -1], [1, 1], [-1, 1]])
    return Taped(np.asarray(plane), tuple(spot + square for spot in at), worst / float(sides.mean()))
