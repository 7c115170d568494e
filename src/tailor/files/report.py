"""The report: everything computed, for scripts and for keeping. Described in docs/format.md."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any

import numpy as np

from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft, Hang
from tailor.core.draft.piece import Piece
from tailor.core.draft.tooled.came import Tooled
from tailor.core.draft.tooled.put import MARKED
from tailor.core.job import Job
from tailor.core.keys import KEYS

FORMAT = "tailor-report/1"

NONE: Mapping[str, str] = MappingProxyType({})


def report(job: Job, made: Draft, said: Sequence[Verdict], files: Mapping[str, str] = NONE) -> dict[str, Any]:
    """The report as plain values, lengths in mm. files: those it is written with, by name, and their SHA-256.

    job.settings holds the settled value of every setting: pinned, computed or default.
    """
    return {
        "format": FORMAT,
        "files": dict(files),
        "units": "mm",
        "job": {
            "name": job.name, "style": job.style, "settings": settled(job, made), "pinned": list(job.settings),
            "capture": vars(job.capture), "corrections": [vars(c) for c in job.settings.corrections],
        },
        "stations": [vars(row) for row in made.rows],
        "pieces": [_piece(p) for p in made.pieces],
        "seams": [
            {
                "name": s.name, "pieces": list(s.pieces), "edges": list(s.edges), "length": s.length, "count": s.count,
                "chord": s.chord, "stack": s.stack, "thread": s.thread, "thread_rule": list(s.thread_rule),
                "method": s.method, "seconds": s.seconds,
            }
            for s in made.seams
        ],
        "parts": [part.name for part in made.lying],
        "inside": None if made.inside is None else list(made.inside),
        "edges_first": list(map(str, made.edges_first)),
        "hardware": [vars(h) for h in made.hardware],
        "tooling": [tooled(put) for put in made.tooled],
        "hang": _hang(made.hang) if made.hang is not None else None,
        "checks": checks(said),
        "reasons": [
            {"name": r.name, "value": r.value, "unit": r.unit, "rule": r.rule, "inputs": dict(r.inputs),
             "others": dict(r.others)}
            for r in made.reasons.values()
        ],
    }  # fmt: skip


def tooled(put: Tooled) -> dict[str, Any]:
    """What is put on the leather, as plain values; its lines lie on the pieces as they are given out."""
    found: dict[str, Any] = {
        "name": put.asked.title, "piece": put.asked.piece, "side": None if put.field is None else put.field.side,
        "width": put.width, "at": list(put.at), "length": 1000 * put.metres, "longer": put.longer,
        "turned": put.turned, "stretch": list(put.stretch),
        "field": [] if put.field is None else _points(np.array(put.field.region.exterior.coords)),
    }  # fmt: skip
    return found if put.repeats is None else found | {"repeats": vars(put.repeats)}


def _hang(hang: Hang) -> dict[str, Any]:
    whole = hang.whole
    return {
        "rest": hang.rest, "drafted": hang.drafted, "free": hang.free, "slack": hang.slack, "away": hang.away,
        "foot": hang.foot, "weight": whole.mass, "balance": [whole.x, whole.y, whole.z],
    }  # fmt: skip


def settled(job: Job, made: Draft) -> dict[str, Any]:
    """Every setting with the value it has in this draft."""
    values: dict[str, Any] = {}
    for name in KEYS:
        if name in job.settings:
            values[name] = job.settings.pinned[name]
        elif name in made.reasons:
            values[name] = made.value(name)
        else:
            values[name] = job.settings.default(name)
    return values


def checks(said: Sequence[Verdict]) -> list[dict[str, Any]]:
    """The ledger as plain values."""
    return [
        {"name": v.name, "verdict": v.ruling.value, "value": v.value, "limit": v.limit, "unit": v.unit,
         "reason": v.reason, "where": v.where}
        for v in said
    ]  # fmt: skip


def to_text(job: Job, made: Draft, said: Sequence[Verdict], files: Mapping[str, str] = NONE) -> str:
    """The report as JSON text; files as `report` has them."""
    return json.dumps(report(job, made, said, files), indent=1, ensure_ascii=False, allow_nan=False) + "\n"


def _points(points: Array) -> list[list[float]]:
    found: list[list[float]] = np.round(points, 5).tolist()
    return found


def _piece(piece: Piece) -> dict[str, Any]:
    return {
        "name": piece.name,
        "count": piece.count,
        "leather": piece.leather,
        "thickness": piece.thickness,
        "face": piece.face,
        "cut": _points(piece.cut),
        "trim": None if piece.trim is None else _points(piece.trim),
        "folds": [_points(f) for f in piece.folds],
        "stitch": [_points(s) for s in piece.stitch],
        "holes": [
            {"seam": h.seam, "edge": h.edge, "x": round(h.x, 5), "y": round(h.y, 5), "diameter": h.diameter}
            for h in piece.holes
        ],
        "fittings": [vars(f) for f in piece.fittings],
        "tooled": [{"kind": r.kind, "points": _points(r.points)} for r in piece.rules if r.kind in MARKED],
        "openings": [_points(ring) for ring in piece.openings],
        "area": piece.area,
    }
