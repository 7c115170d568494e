"""Telling the object from the mat: where paper ends, whatever the light, and where the maker says so.

All on a picture of the plain field seen straight down, GRAIN px to the mm, row 0 at the top. A shadow is paper
too: it is darker but fades in softly, while the object has an edge.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.view import WHERE, Image, View
from tailor.core.errors import InputError

GRAIN = 4.0  # px to the mm
RIM = 1.5  # mm at the edge of the field that is taken for paper
STEEP = 0.022  # change of light, as a share of the paper's, in one px of an edge that is surely sharp
FAINT = 0.006  # the same where such an edge grows faint
BRIDGED = 2.4  # mm to either side over which an edge that fades out is taken to go on
HUES = 3.0  # weight of a change of hue, which no shadow makes, against a change of light
PENUMBRA = 1.2  # mm over which a shadow fades in at the least
DARKEST = 0.42  # share of the paper's light left in the deepest shadow
TINTED = 0.07  # difference between colour shares that no shadow has
SMALLEST = 25.0  # mm²: smaller is a crumb
Mask = NDArray[np.bool_]


@dataclass(frozen=True)
class Stroke:
    """A touch of the brush: a line of points (n, 2) in mat mm, its radius, and whether it keeps or removes."""

    points: Array
    radius: float
    keeps: bool


@dataclass(frozen=True)
class Field:
    """The plain field seen straight down: colours (h, w, 3), and how to get between its px and mat mm."""

    colours: Image
    left: float
    top: float
    scale: float = 1.0

    def to_px(self, mm: Array) -> Array:
        return np.column_stack([mm[:, 0] - self.left, self.top - mm[:, 1]]) * GRAIN - 0.5

    def to_mm(self, px: Array) -> Array:
        return np.column_stack([self.left + (px[:, 0] + 0.5) / GRAIN, self.top - (px[:, 1] + 0.5) / GRAIN])


def look_down(photo: Image, view: View) -> Field:
    """The plain field out of a photo (h, w, 3)."""
    left, bottom, right, top = (v * view.rule for v in view.mat.field)
    width, height = round((right - left) * GRAIN), round((top - bottom) * GRAIN)
    field = Field(np.zeros((0, 0, 3), np.uint8), left, top)
    if view.distortion.any():
        across, down = np.meshgrid(np.arange(width, dtype=float), np.arange(height, dtype=float))
        mm = field.to_mm(np.column_stack([across.ravel(), down.ravel()]))
        at = view.project_flat(mm).reshape(height, width, 2).astype(np.float32)
        seen = cv2.remap(photo, at[..., 0], at[..., 1], cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    else:
        frame = np.array([[0, 0], [width - 1, 0], [width - 1, height - 1], [0, height - 1]], dtype=float)
        spots = view.project_flat(field.to_mm(frame))
        bend = cv2.getPerspectiveTransform(spots.astype(np.float32), frame.astype(np.float32))
        finer = float(np.ptp(spots[:, 0])) / width
        soft = cv2.GaussianBlur(photo, (0, 0), finer / 3) if finer > 2 else photo
        seen = cv2.warpPerspective(soft, bend, (width, height), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    return Field(np.asarray(seen, dtype=np.uint8), left, top)


@dataclass(frozen=True)
class Scene:
    """What segmenting needs to know of a field, worked out once: relief to climb, and what is surely what.

    relief: (h, w) uint8 steepness. edges: (h, w) where an edge is. paper, thing: (h, w) where it surely is the one
    or the other.
    """

    field: Field
    relief: Image
    edges: Mask
    paper: Mask
    thing: Mask


def study(field: Field) -> Scene:
    """Light, edges and sure places of a field; no sure place of an object where none stands out."""
    colours = cv2.GaussianBlur(field.colours, (0, 0), 0.9).astype(np.float32)
    share = colours / np.maximum(_paper_light(colours), 1.0)
    steep = _sharp(share)
    light, tint = _mean(share), _greatest(share) + _greatest(-share)
    rim = round(RIM * GRAIN)
    unlike = (light < DARKEST) | (tint > TINTED) | (light > 1.12)
    grain = float(np.percentile(np.concatenate([steep[: 3 * rim].ravel(), steep[-3 * rim :].ravel()]), 98))
    edges = cv2.dilate(_connected(steep, max(FAINT, 1.6 * grain), max(STEEP, 3.0 * grain)), _disc(1))
    calm = (edges == 0) & ~unlike
    calm[:rim], calm[-rim:], calm[:, :rim], calm[:, -rim:] = True, True, True, True
    bridge = _disc(round(BRIDGED * GRAIN))
    _, labels = cv2.connectedComponents(cv2.erode(calm.astype(np.uint8), bridge), connectivity=4)
    paper = cv2.dilate((labels == labels[rim, rim]).astype(np.uint8), bridge).astype(bool) & calm
    enclosed = cv2.morphologyEx((~paper).astype(np.uint8), cv2.MORPH_OPEN, _disc(3))
    inner = cv2.erode(_filled(enclosed), _disc(5)).astype(bool)
    thing = _great(inner | (cv2.erode(unlike.astype(np.uint8), _disc(3)).astype(bool) & ~paper))
    sure_paper = cv2.erode(paper.astype(np.uint8), _disc(2)).astype(bool)
    relief = np.clip(steep * 1800, 0, 255).astype(np.uint8)
    return Scene(field, relief, edges.astype(bool), sure_paper & ~thing, thing)


def segment(scene: Scene, strokes: Sequence[Stroke] = ()) -> Mask:
    """Where the object is, (h, w): flooding from sure places until they meet on the steepest edge.

    What the maker painted counts for more than what was seen. Raises InputError when nothing stands out, or nothing
    is left.
    """
    if not scene.thing.any() and not any(stroke.keeps for stroke in strokes):
        raise InputError(
            "no object stands out from the plain field", WHERE,
            "lay it inside the field, light it evenly, or paint over it with the keep brush",
        )  # fmt: skip
    seeds = np.zeros(scene.relief.shape, dtype=np.int32)
    seeds[scene.paper], seeds[scene.thing] = 1, 2
    for stroke in strokes:
        line = np.round(scene.field.to_px(stroke.points) * 16).astype(np.int32)
        width = max(round(2 * stroke.radius * GRAIN), 1)
        touched = cv2.polylines(np.zeros(seeds.shape, np.uint8), [line], False, 1, width, cv2.LINE_8, 4)
        seeds[touched.astype(bool)] = 2 if stroke.keeps else 1
    flooded = cv2.watershed(cv2.cvtColor(scene.relief, cv2.COLOR_GRAY2BGR), seeds)
    found = cv2.morphologyEx((flooded == 2).astype(np.uint8), cv2.MORPH_OPEN, _disc(2))
    whole = _filled(np.asarray(_great(found.astype(bool))).astype(np.uint8)).astype(bool)
    if not whole.any():
        raise InputError("nothing of the object is left", WHERE, "paint over it with the keep brush")
    return whole


def doubled(scene: Scene, mask: Mask, near: float = 2.2, far: float = 6.0) -> float:
    """Share of an outline with another edge beside it on the outside, `near` to `far` mm away.

    There the outline may run along an inner edge of the object instead of its outermost.
    """
    away = cv2.distanceTransform((~mask).astype(np.uint8), cv2.DIST_L2, 3) / GRAIN
    beside = (scene.edges & (away > near) & (away < far)).astype(np.uint8)
    lines, _ = cv2.findContours(beside, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    rim, _ = cv2.findContours(mask.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return min(sum(len(line) / 2 for line in lines) / max(sum(map(len, rim)), 1), 1.0)


def rim_crossed(mask: Mask) -> bool:
    """Whether the object runs to the edge of the plain field, where it cannot be told from the print."""
    rim = round(RIM * GRAIN) + 3
    return bool(mask[:rim].any() or mask[-rim:].any() or mask[:, :rim].any() or mask[:, -rim:].any())


def _paper_light(colours: NDArray[np.float32]) -> NDArray[np.float32]:
    """The light of bare paper over the field, (h, w, 3): a quadratic through what is brightest, refitted."""
    h, w = colours.shape[:2]
    step = max(round(2 * GRAIN), 1)
    sample = colours[::step, ::step].reshape(-1, 3)
    y, x = np.mgrid[0:h:step, 0:w:step].reshape(2, -1) / np.array([[h], [w]]) * 2 - 1
    terms = np.column_stack([np.ones_like(x), x, y, x * x, x * y, y * y])
    grey = sample.mean(axis=1)
    on_rim = (np.abs(x) > 0.9) | (np.abs(y) > 0.9)
    kept = on_rim & (grey >= np.percentile(grey[on_rim], 30))
    for _ in range(6):
        fit = np.linalg.lstsq(terms[kept], grey[kept], rcond=None)[0]
        off = grey - terms @ fit
        scatter = 1.48 * float(np.median(np.abs(off[kept]))) + 1.5
        kept = (np.abs(off) < 2.5 * scatter) | (on_rim & (off > -3 * scatter) & (off < 4 * scatter))
    fits = np.linalg.lstsq(terms[kept], sample[kept], rcond=None)[0]
    y, x = np.mgrid[-1 : 1 : h * 1j, -1 : 1 : w * 1j].astype(np.float32)
    every = (np.ones_like(x), x, y, x * x, x * y, y * y)
    return np.stack([sum(t * np.float32(f) for t, f in zip(every, fits[:, c], strict=True)) for c in range(3)], axis=2)


def _sharp(share: NDArray[np.float32]) -> NDArray[np.float32]:
    """Greatest change of any colour from px to px, (h, w), less what changes as much all about, as a shadow does."""
    hues = HUES * share / np.maximum(_mean(share)[..., None], 0.15)
    steep = np.zeros(share.shape[:2], dtype=np.float32)
    for seen in (share, hues):
        dx = cv2.Sobel(seen, cv2.CV_32F, 1, 0, scale=1 / 8)
        dy = cv2.Sobel(seen, cv2.CV_32F, 0, 1, scale=1 / 8)
        steep = np.maximum(steep, cv2.sqrt(_greatest(dx * dx + dy * dy)))
    around = cv2.GaussianBlur(steep, (0, 0), PENUMBRA * GRAIN)
    return np.asarray(np.maximum(steep - 1.3 * around, 0))


def _greatest(colours: NDArray[np.float32]) -> NDArray[np.float32]:
    """The greatest of three colours, (h, w); much faster than a maximum along the short axis."""
    first, second, third = cv2.split(colours)
    return np.asarray(cv2.max(cv2.max(first, second), third))


def _mean(colours: NDArray[np.float32]) -> NDArray[np.float32]:
    return np.asarray(cv2.transform(colours, np.full((1, 3), 1 / 3, dtype=np.float32)))


def _connected(steep: NDArray[np.float32], faint: float, sure: float) -> Image:
    """Where it is steeper than faint, on lines that somewhere are steeper than sure."""
    _, labels = cv2.connectedComponents((steep > faint).astype(np.uint8), connectivity=8)
    kept = np.zeros(labels.max() + 1, dtype=np.uint8)
    kept[labels[steep > max(sure, faint)]] = 1
    kept[0] = 0
    return np.asarray(kept[labels], dtype=np.uint8)


def _disc(radius: int) -> Image:
    return np.asarray(cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * radius + 1, 2 * radius + 1)), dtype=np.uint8)


def _filled(mask: Image) -> Image:
    """With its holes filled."""
    outer, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    return np.asarray(cv2.drawContours(np.zeros_like(mask), outer, -1, 1, cv2.FILLED), dtype=np.uint8)


def _great(mask: Mask) -> Mask:
    """The largest piece of a mask, none of it when it is a crumb."""
    count, labels, facts, _ = cv2.connectedComponentsWithStats(mask.astype(np.uint8), connectivity=8)
    if count < 2:
        return np.zeros_like(mask)
    k = 1 + int(facts[1:, cv2.CC_STAT_AREA].argmax())
    if facts[k, cv2.CC_STAT_AREA] < SMALLEST * GRAIN**2 / 4:
        return np.zeros_like(mask)
    return np.asarray(labels == k)
