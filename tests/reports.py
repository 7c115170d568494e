"""What the report of a demo job tells, as a script reads it; and what is claimed of it."""

from __future__ import annotations

import json
from functools import cache
from typing import Any

import numpy as np

from tailor import demo
from tailor.core.job import draft, judge
from tailor.files import report
from tests.lofts import typed

FINE = 256


@cache
def reported(name: str, *typed: str) -> dict[str, Any]:
    """The report of a demo job as a script reads it, with further settings typed."""
    job = demo.job(name)
    for each in typed:
        job = job.typed(*each.split("=", 1))
    made = draft(job)
    found: dict[str, Any] = json.loads(report.to_text(job, made, judge(job, made)))
    return found


def settled(found: dict[str, Any], key: str) -> float:
    return float(found["job"]["settings"][key])


def piece(found: dict[str, Any], name: str) -> dict[str, Any]:
    return next(p for p in found["pieces"] if p["name"] == name)


def holes(found: dict[str, Any], name: str, seam: str, edge: str) -> np.ndarray:
    return np.array([(h["x"], h["y"]) for h in piece(found, name)["holes"] if (h["seam"], h["edge"]) == (seam, edge)])


def bend(found: dict[str, Any]) -> tuple[float, float, float]:
    """Thickness, inside radius and neutral offset of the leather."""
    thick = settled(found, "leather.thickness")
    return thick, settled(found, "leather.fold_radius") * thick, settled(found, "leather.neutral") * thick


def run_of(points: np.ndarray, radius: float) -> float:
    """A U-shaped stitch line's length by its two ends, its width and its corners."""
    wide, deep = np.ptp(points[:, 0]), np.ptp(points[:, 1])
    return float(2 * deep + wide - 4 * radius + np.pi * radius)


def claims(name: str, **settings: str) -> dict[str, str]:
    """The ruling of each verdict of a demo job, with settings typed as `seam__standoff`."""
    job = typed(demo.job(name), **settings)
    return {v.name: v.ruling.value for v in judge(job, draft(job))}
