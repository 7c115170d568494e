"""What a draft asks of the leather: its pieces as they are laid, each with the ways it may lie."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import shapely

from tailor.core.cut.laying import Template, Turns, Wanted
from tailor.core.draft.draft import Draft
from tailor.core.draft.piece import Piece, Role

LEATHER = ("body", "lining", "welt")  # what is cut of leather; board, foam and card are not
PLAY = 10.0  # degrees that a piece may lean from the backbone: leather stretches least along it
STRAP = 6.0  # times its width that a piece is long which is cut as a strap, from the straight back edge
KNIFE = 2.5  # mm between two pieces
HIDDEN = ("welt", "lining")  # where neither a loose spot nor the grain is seen


def templates(
    made: Draft, name: str, count: int = 1, sort: Callable[[Piece], str] = lambda piece: ""
) -> Iterator[Template]:
    """The pieces of so many of a job, called NAME/PIECE, then #2, #3 where there are more. sort: the leather of one."""
    for piece in made.pieces:
        if piece.leather in LEATHER and piece.role is not Role.TEMPLATE:
            for n in range(count * piece.count):
                yield _template(piece, f"{name}/{piece.name}" + (f" #{n + 1}" if n else ""), sort(piece))


def _template(piece: Piece, id_: str, sort: str) -> Template:
    turns = Turns() if piece.grain is None else Turns((-90.0 - piece.grain, 90.0 - piece.grain), PLAY)
    return Template(
        id_, piece.name, np.asarray(piece.cut, dtype=float), KNIFE, KNIFE / 2, turns,
        may_flip=piece.leather == "welt", wanted=_wanted(piece), sort=sort, thick=piece.thickness,
    )  # fmt: skip


def _wanted(piece: Piece) -> Wanted:
    """Straps come from the back; what nobody sees may be of anything; what carries or shows is not loose."""
    if piece.leather in HIDDEN:
        return Wanted.ANY
    corners = shapely.get_coordinates(shapely.Polygon(piece.cut).minimum_rotated_rectangle)
    sides = np.linalg.norm(np.diff(corners[:3], axis=0), axis=1)
    return Wanted.BACK_BAND if sides.max() >= STRAP * sides.min() else Wanted.NOT_LOOSE
