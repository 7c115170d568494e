"""A patch: a picture or a mark on a piece of leather of its own, riveted on at the end.

Source: craft, "Tooling, lettering, marks": the maker's mark sits where nothing covers it, or on a piece of its own.
"""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
import shapely
from shapely.geometry import Polygon

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft, Hardware
from tailor.core.draft.piece import Fitting, Piece, Role, Rule, panel
from tailor.core.draft.tooled.asked import Line, Picture
from tailor.core.draft.tooled.came import FINE, Field, Tooled
from tailor.core.draft.tooled.picture import apart, laid
from tailor.core.leather.fastenings import Fastening
from tailor.core.placed.lies import Laid as LaidOn
from tailor.core.placed.lies import Lie
from tailor.core.settings import Settings

RIVET = "rapid rivet 7"
USUAL, LEAST = 24.0, 6.0  # mm that a picture on a patch is wide, where nobody says, and no less than
EDGE, CLEAR = 5.0, 2.0  # mm from a picture to the patch's edge, and to a rivet's cap
CORNER = habit.eye("field.corner", 4.0, 1, 12, "rounding of a plate's corners")


class Patched(NamedTuple):
    """What a patch brings. put: where it goes; piece, lie: the patch; fittings: punched for it in its ground."""

    put: Tooled
    piece: Piece
    lie: Lie | None
    fittings: tuple[Fitting, ...]
    hardware: tuple[Hardware, ...]


def patched(settings: Settings, made: Draft, number: int, asked: Picture, field: Field, within: Polygon) -> Patched:
    """A picture on a patch in a field. Raises InputError where there are no such rivets."""
    corner = settings.habit(CORNER)
    rivet = settings.maker.fastening(RIVET, f"tooling.{number}.patch")
    ground, left = made.piece(field.piece), settings.word("hand") == "left"
    lie, aspect = made.lies.get(field.piece), asked.size[1] / max(asked.size[0], 1e-3)
    wide = USUAL if asked.width is None else asked.width
    put = _framed(asked, field, within, lie, left, _half(wide, aspect, rivet))
    if asked.width is None and put.out > 0:
        wide = max(LEAST, wide - 2 * _half(wide, aspect, rivet)[0] + put.room)
        put = _framed(asked, field, within, lie, left, _half(wide, aspect, rivet))
    half = _half(wide, aspect, rivet)
    corners = put.lines[0][:4]
    middle, way = corners.mean(axis=0), (corners[1] - corners[0]) * (-1.0 if left else 1.0)  # as flat, not as mirrored
    turn = float(np.arctan2(way[1], way[0]))
    name, reach = f"patch {number}", half[0] - rivet.edge
    places = [(f"{name}, {side} rivet", x) for side, x in (("left", -reach), ("right", reach))]
    on = np.array([np.cos(turn), np.sin(turn)])
    ring = shapely.box(*-half, *half).buffer(-corner).buffer(corner, quad_segs=FINE // 4).exterior
    patch = panel(name, shapely.get_coordinates(ring)[:-1], ground.thickness)
    scale = wide / max(asked.size[0], 1e-3 * max(asked.size))
    drawn = [scale * line * np.array([-1.0 if left else 1.0, 1.0]) for line in asked.lines]
    patch = replace(
        patch, role=Role.PART, rules=tuple(Rule("mark" if asked.mark else "picture", line) for line in drawn),
        fittings=tuple(Fitting(RIVET, x, 0.0, rivet.hole, rivet.cap, place) for place, x in places),
    )  # fmt: skip
    stack = 2 * ground.thickness
    y = float(middle[1] if lie is None else lie(middle[None, :]).at[0, 1])
    return Patched(
        replace(
            put, number=number, width=wide, room=max(put.room - 2 * half[0] + wide, 0.0), patch=tuple(drawn), y=y,
            apart=apart(drawn),
        ),
        patch,
        None if lie is None else LaidOn(lie, ground.thickness, (float(middle[0]), float(middle[1])), turn),
        tuple(
            Fitting(RIVET, float(x), float(up), rivet.hole, rivet.cap, place)
            for (place, _), (x, up) in zip(places, middle + np.outer([-reach, reach], on), strict=True)
        ),
        tuple(Hardware(RIVET, place, y, stack, rivet.post(stack), put.out == 0, 0.0, f"tooling.{number}.patch")
              for place, _ in places),
    )  # fmt: skip


def _half(wide: float, aspect: float, rivet: Fastening) -> Array:
    """Half the width and the height of a patch for a picture so wide."""
    across = wide / 2 + CLEAR + rivet.cap / 2 + rivet.edge
    return np.array([across, max(wide * aspect / 2 + EDGE, rivet.edge)])


def _framed(asked: Picture, field: Field, within: Polygon, lie: Lie | None, left: bool, half: Array) -> Tooled:
    """Where a patch goes: its outline laid as a picture is."""
    (x, y) = half.tolist()
    frame = replace(
        asked, drawn=(Line(((-x, -y), (x, -y), (x, y), (-x, y)), closed=True),), width=2 * x, mirrored=False
    )
    put = laid(frame, field, within, lie, left)
    return Tooled(0, asked, field, lines=put.lines, room=put.room, at=put.at, out=put.out, stretch=put.stretch)
