"""Tracing: from a photo on the mat to the object's outline at true size, with how true it is."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.carried.outline import Pull, axis, breadth, pulled
from tailor.core.carried.photo.edge import follow, normals
from tailor.core.carried.photo.parallax import Rise, settled
from tailor.core.carried.photo.segment import Mask, Scene, Stroke, doubled, look_down, rim_crossed, segment, study
from tailor.core.carried.photo.view import WHERE, Image, Lens, View, find
from tailor.core.errors import InputError

CALIPER = 0.15  # mm: how well a height taken by caliper is known
EDGE = 0.06  # mm: how well an edge can be told at best
DOUBT = 2.0  # mm: how far a faint edge may lie from the true one
SPAN = 1.96  # spreads within which 19 of 20 points lie
ASK = 0.5  # mm: an unknown focal length that matters more than this is asked for

Tell = Callable[[str, float], None]


def quietly(said: str, share: float) -> None:
    """Tells no one."""


@dataclass(frozen=True)
class Seen:
    """A photo whose view is known and whose field has been studied: all that does not change while retouching."""

    photo: Image
    view: View
    scene: Scene


@dataclass(frozen=True)
class Trace:
    """outline: (n, 2) mm on the mat, counter-clockwise. error: ± mm that 19 of 20 of its points keep within.

    seen: the outline against the mat, before parallax. parts: what the error is made of, mm, one spread each.
    """

    outline: Array
    error: float
    seen: Array
    mask: Mask
    view: View
    parts: dict[str, float]
    notes: tuple[str, ...]


def look(photo: Image, lens: Lens, rule: float = 100.0, tell: Tell = quietly) -> Seen:
    """Find the camera and study the field of a photo (h, w, 3) in BGR. Raises InputError in a sentence."""
    tell("finding the mat", 0.05)
    view = find(np.asarray(cv2.cvtColor(photo, cv2.COLOR_BGR2GRAY), dtype=np.uint8), lens, rule)
    tell("looking straight down", 0.35)
    field = look_down(photo, view)
    tell("telling the object from the mat", 0.5)
    return Seen(photo, view, study(field))


def trace(
    seen: Seen,
    rise: Rise,
    strokes: Sequence[Stroke] = (),
    pulls: Sequence[Pull] = (),
    sure: float = CALIPER,
    tell: Tell = quietly,
) -> Trace:
    """The object's outline. rise: its height; sure: how well that is known, mm; pulls: where the edge is mended."""
    tell("following the outline", 0.75)
    mask = segment(seen.scene, strokes)
    if rim_crossed(mask):
        raise InputError(
            "the object runs over the edge of the plain field",
            WHERE,
            "use a larger mat, or remove what lies at the edge",
        )
    edge, scatter, faint = follow(seen.photo, seen.view.project_flat, mask, seen.scene.field)
    edge = pulled(edge, pulls)
    tell("allowing for height", 0.9)
    view = seen.view
    centre, way = axis(edge)
    along = (edge - centre) @ way
    along -= along.min()
    half = breadth(along, (edge - centre) @ np.array([way[1], -way[0]])) / 2
    outline = settled(edge, along, half, view.eye, rise)
    _, top = rise.at(along)
    parts = _errors(edge, top, view, scatter, sure)
    double = doubled(seen.scene, mask)
    parts |= {"faint edge": DOUBT * float(np.sqrt(faint)), "second edge": DOUBT * float(np.sqrt(double))}
    error = SPAN * float(np.sqrt(sum(v * v for v in parts.values())))
    if view.focal_sure > 0.2 and parts["camera"] > ASK:
        raise InputError(
            "the photo does not say its focal length, and was taken too straight down to work it out", WHERE,
            "give the focal length in px or the distance from camera to mat, or tilt the camera some 15°",
        )  # fmt: skip
    tell("done", 1.0)
    notes = view.notes
    if faint > 0.03:
        notes += (f"the edge is faint over {100 * faint:.0f} % of the outline: look at it, and touch it up",)
    if double > 0.03:
        notes += (
            f"another edge runs outside {100 * double:.0f} % of the outline: keep it with the brush if it belongs",
        )
    return Trace(outline, error, edge, mask, view, parts, notes)


def _errors(edge: Array, top: Array, view: View, scatter: float, sure: float) -> dict[str, float]:
    """One spread of each cause, mm rms square to the outline."""
    out = normals(edge)
    lean = ((edge - view.eye[:2]) * out).sum(axis=1) / view.eye[2]
    high = np.where(lean > 0, top, 0.0)
    pixels = view.project_flat(edge)

    def placed(seen: View) -> Array:
        flat = seen.on_mat(pixels)
        return np.asarray(flat - (flat - seen.eye[:2]) * (high / seen.eye[2])[:, None])

    here = placed(view)
    shifts = [((placed(_held(shaken)) - here) * out).sum(axis=1) for shaken in view.shaken()]
    return {
        "edge": float(np.hypot(EDGE, scatter)),
        "camera": float(np.sqrt(np.mean(np.sum(np.square(shifts), axis=0)))),
        "height": float(np.sqrt(np.mean(np.clip(lean, 0, None) ** 2))) * sure,
        "mat": view.residual,
    }


def _held(view: View) -> View:
    """A shaken view whose focal length stays within what a camera can be."""
    state = view.state.copy()
    state[0] = np.clip(state[0], np.log(view.size[0] * 0.3), np.log(view.size[0] * 12))
    return replace(view, state=state)
