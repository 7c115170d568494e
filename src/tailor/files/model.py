"""Model: a case put together, told as a script reads it and written as a solid for others to look at."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.errors import InputError
from tailor.core.together.assembled import Assembled
from tailor.core.together.order import ordered
from tailor.core.together.reach import reached
from tailor.core.together.ridden import Sat
from tailor.files import atomic

FORMAT = "tailor-together/1"
METRES = 0.001  # of a mm: glTF is in metres
KINDS = {".glb": "glb", ".obj": "obj", ".stl": "stl"}


def told(whole: Assembled, said: Sequence[Verdict], sat: Sat | None = None) -> dict[str, Any]:
    """What shows of a draft once it is put together. said: its verdicts; sat: how it sits on a belt, where it does.
    Lengths in mm, strain in shares, angles in degrees.
    """
    seams: dict[str, dict[str, Any]] = {}
    for met in whole.seams:
        seam = seams.setdefault(met.name, {"name": met.name, "pieces": list(met.names), "holes": 0, "distance": 0.0})
        seam["holes"] += 1
        seam["distance"] = max(seam["distance"], _plain(met.distance))
    layers, steps = {each.place: each for each in whole.layered}, ordered(whole)
    return {
        "format": FORMAT,
        "joints": [*seams.values(), *(
            {"name": met.name, "pieces": list(met.names), "holes": 1, "distance": _plain(met.distance),
             "leather": _plain(layers[met.name].thickness)} for met in whole.fastened if met.name in layers
        )],
        "strain": [{"piece": s.piece, "least": _plain(s.least), "most": _plain(s.most)} for s in whole.strains],
        "contents": [{"name": g.name, "gap": _plain(g.gap), "piece": g.piece} for g in whole.gaps],
        "closures": [{"name": met.name, "distance": _plain(met.distance)} for met in whole.shut],
        "rides": None if sat is None else {
            "play": _plain(sat.play), "room": None if sat.deep is None else _plain(sat.deep),
            "foot": _plain(sat.on.foot),
            "rest": _plain(sat.hang.rest), "weight_g": _plain(sat.hang.whole.mass),
            "balance": [_plain(at) for at in (sat.hang.whole.x, sat.hang.whole.y, sat.hang.whole.z)],
        },
        "order": [
            {"piece": step.piece, "on": step.on, "host": step.host, "held": [
                {"by": each.by, "way": str(each.way), "front": _room(each.front), "back": _room(each.back),
                 "beside": list(each.beside)} for each in reaches
            ]} for step, reaches in zip(steps, reached(whole, steps), strict=True)
        ],
        "unplaced": list(whole.unplaced),
        "fails": [v.name for v in said if v.ruling is Ruling.STOP],
    }  # fmt: skip


def _room(value: float) -> float | None:
    return _plain(value) if np.isfinite(value) else None


def _plain(value: float) -> float:
    return round(float(value), 4) + 0.0


def write(whole: Assembled, path: Path) -> None:
    """The leather of a draft where it lies, each piece a closed solid: glTF in metres, OBJ and STL in mm.

    Raises InputError for a kind of file that is none of these, or where nothing of it has a place; DiskError.
    """
    import trimesh  # slow to load, so only when a model is written

    kind = KINDS.get(path.suffix.lower())
    if kind is None:
        raise InputError(
            f"a model is not written as '{path.suffix}'", path.name, f"end its name in {' or '.join(KINDS)}"
        )
    if not whole.skins:
        raise InputError("none of its pieces says how it lies", "the draft", "draft it by one of the constructions")
    scene = trimesh.Scene()
    for name, sheet in whole.skins.items():
        corners, faces = sheet.solid
        scene.add_geometry(trimesh.Trimesh(corners * (METRES if kind == "glb" else 1.0), faces, process=False),
            node_name=name, geom_name=name)  # fmt: skip
    if kind == "stl":
        data = scene.to_mesh().export(file_type=kind)
    else:
        data = scene.export(file_type=kind)
    atomic.write(path, data.encode() if isinstance(data, str) else bytes(data))
