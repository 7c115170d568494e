"""Flat scans: the object or its traced card on a scanner, seen square on at a known number of px to the mm."""

from __future__ import annotations

from collections.abc import Sequence

import cv2
import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.carried.photo.edge import follow
from tailor.core.carried.photo.segment import GRAIN, Field, Scene, Stroke, doubled, rim_crossed, segment, study
from tailor.core.carried.photo.trace import DOUBT, EDGE, SPAN
from tailor.core.carried.photo.view import Image
from tailor.core.errors import InputError
from tailor.core.units import INCH

WHERE = "scan"
TRUE_TO = 0.001  # share of a length by which a scanner's feed may be off
LEAST, MOST = 2.0, 200.0  # px to the mm that can be used


def ruled(start: Array, end: Array, mm: float) -> float:
    """Pixels to the mm from two marks (2,) of a ruler in the scan, `mm` apart. Raises InputError."""
    apart = float(np.hypot(*(np.asarray(end) - np.asarray(start))))
    if not (mm > 0 and apart >= 20):
        raise InputError(
            "the two marks of the ruler are too near each other", WHERE, "choose marks 50 mm apart or more"
        )
    return apart / mm


def look(photo: Image, px_per_mm: float) -> Scene:
    """Study a scan (h, w, 3). Raises InputError for a scale that cannot be."""
    if not LEAST <= px_per_mm <= MOST:
        raise InputError(
            f"{px_per_mm:g} px to the mm cannot be used", WHERE, f"scan at {LEAST * INCH:.0f} to {MOST * INCH:.0f} dpi"
        )
    height = photo.shape[0]
    ratio = GRAIN / px_per_mm
    small = cv2.resize(photo, None, fx=ratio, fy=ratio, interpolation=cv2.INTER_AREA if ratio < 1 else cv2.INTER_LINEAR)
    field = Field(np.asarray(small, dtype=np.uint8), 0.0, height / px_per_mm)
    return study(field)


def trace(photo: Image, px_per_mm: float, scene: Scene, strokes: Sequence[Stroke] = ()) -> tuple[Array, float]:
    """The outline in a scan, (n, 2) mm with y up, and ± mm that 19 of 20 of its points keep within.

    Raises InputError when nothing stands out, or it runs over the edge.
    """
    mask = segment(scene, strokes)
    if rim_crossed(mask):
        raise InputError("the object runs over the edge of the scan", WHERE, "scan it with bare paper all round")

    def project(mm: Array) -> Array:
        return np.column_stack([mm[:, 0], scene.field.top - mm[:, 1]]) * px_per_mm - 0.5

    edge, scatter, faint = follow(photo, project, mask, scene.field)
    parts = [EDGE, scatter, TRUE_TO * float(np.ptp(edge, axis=0).max()) / 2]
    parts += [DOUBT * float(np.sqrt(share)) for share in (faint, doubled(scene, mask))]
    return edge, SPAN * float(np.sqrt(np.sum(np.square(parts))))
