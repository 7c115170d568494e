"""Will what is put on the leather stand: in its field, on leather that takes it, upright and seen once it is whole."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace
from functools import cached_property

import numpy as np
import scipy
import shapely

from tailor.core import habit
from tailor.core.carried.loft import Array
from tailor.core.checks.verdict import Ruling, Verdict, at_least, at_most
from tailor.core.draft.draft import Draft
from tailor.core.draft.tooled.asked import HALF, Picture, Tooling
from tailor.core.draft.tooled.came import Repeats, Tooled
from tailor.core.draft.tooled.field import first_place, is_tooled
from tailor.core.draft.tooled.picture import LEANS, LONGER, TURNED
from tailor.core.measure import Theme
from tailor.core.settings import Settings

THICK = habit.stuff("tooled.thick", 1.8, 1.2, 3, "thick, from which leather takes an impression that lasts")
MOST = habit.stuff("tooled.deepest", 0.75, 0.4, 0.9, "of the thickness, past which a tool tears it", habit.SHARE)
FADES = habit.stuff("tooled.fades", 0.05, 0.01, 0.15, "that tooled leather may stretch before it fades", habit.SHARE)
APART, TOUCH = 1.0, 0.5  # mm of leather that stands between two cuts, and that breaks out
STRAYS = 0.05  # mm that a line may be out of its field
STEP, RISES, NEAR = 4.0, (3.0, 6.0, 10.0, 15.0, 20.0), 3.5  # mm: where something lies over what is tooled
OWN = 40.0  # mm along the piece itself, past which it lies over itself
HIDDEN = 5.0  # per cent of it


def verdicts(settings: Settings, made: Draft) -> Iterator[Verdict]:
    """Verdicts on everything that is tooled."""
    over = _Over(made)
    for put in made.tooled:
        if put.field is None:
            elsewhere = tuple((f"tooling.{put.number}.{key}", text) for key, text in first_place(made).items())
            said = _said(put, Ruling.STOP, "Has a field", 0.0, 1.0, "count", _nowhere(made, put))
            yield replace(said, together=(elsewhere,))
            continue
        thick = made.piece(put.field.piece).thickness
        yield _thick(settings, put, thick)
        yield _deep(settings, put, thick)
        if isinstance(put.asked, Picture):
            yield from _picture(settings, put, made)
        if math.isfinite(put.apart):
            yield _apart(put)
        if put.repeats is not None:
            yield _ends(put, put.repeats)
        if (hidden := over.of(put)) is not None:
            yield hidden


def _said(
    put: Tooled, ruling: Ruling, name: str, value: float, limit: float, unit: str, reason: str,
    remedies: tuple[tuple[str, str], ...] = (), ceiling: bool = False,
) -> Verdict:  # fmt: skip
    mine = tuple((f"tooling.{put.number}.{key}", text) for key, text in remedies)
    return Verdict(f"{name}, {put.asked.title}", ruling, value, limit, unit, reason, put.asked.where, put.y, mine,
                   Theme.TOOLING, ceiling)  # fmt: skip


def _most(
    put: Tooled, name: str, value: float, limits: tuple[float, float], unit: str, said: tuple[str, str],
    remedies: tuple[tuple[str, str], ...] = (),
) -> Verdict:  # fmt: skip
    """A verdict on what may be at most so much, and bears no more than so much; said: if it holds, and if not."""
    ruling = at_most(value, *limits)
    return _said(put, ruling, name, value, limits[0], unit, said[ruling is not Ruling.OK], remedies, ceiling=True)


def _nowhere(made: Draft, put: Tooled) -> str:
    names = [piece.name for piece in made.pieces if is_tooled(piece)]
    if put.asked.piece not in names:
        return f"There is no {put.asked.piece} here to tool: put it on {' or '.join(names[:4])}."
    return "No part of that side is free of edges, holes and what lies on it: put it on another side or piece."


def _thick(settings: Settings, put: Tooled, thick: float) -> Verdict:
    ruling, said = at_least(thick, settings.habit(THICK), 0.0), "It is thick enough to hold an impression."
    if settings.word("leather.temper") == "soft":
        ruling = Ruling.LOOK
        said = (
            "Soft leather gives under the tool and lets go of what is in it: take firm leather, or line it with some."
        )
    elif ruling is not Ruling.OK:
        said = "Below about 2 mm an impression fades: cut and bevel it lightly, or take thicker leather."
    return _said(put, ruling, "Leather takes it", thick, settings.habit(THICK), "mm", said)


def _deep(settings: Settings, put: Tooled, thick: float) -> Verdict:
    half = HALF * thick
    shallow = math.floor(half * 10) / 10
    said = (
        "Half the leather is left whole under it.",
        f"What is left tears there: go no deeper than {shallow:g} mm.",
    )
    remedies = (("depth", f"{shallow:g}mm"),) if shallow >= 0.1 else ()
    limits = half, settings.habit(MOST) * thick
    return _most(put, "Leaves leather under it", put.asked.deep(thick), limits, "mm", said, remedies)


def _picture(settings: Settings, put: Tooled, made: Draft) -> Iterator[Verdict]:
    smaller = (("width", f"{math.floor(put.room * 10) / 10:g}mm"),) if put.room >= 3.0 else ()
    said = (
        "It keeps clear of edges, holes and folds.",
        f"It runs out of its field, to stitches, a fold or an edge: make it {put.room:.0f} mm wide or less there, or "
        "let it find its own place.",
    )
    limits = STRAYS, max(made.value("tool.setback") / 2, STRAYS)
    yield _most(put, "Stays in its field", put.out, limits, "mm", said, (*smaller, ("x", "auto"), ("width", "auto")))
    if put.longer > 0 or put.turned > 0:
        yield _stands(put)
    if made.wet:
        said = (
            "Moulding hardly stretches the leather under it; go over its lines once more while it is damp.",
            "Moulding stretches the leather under it, and it fades: go over it once it is moulded, or put it where the "
            "leather lies flatter.",
        )
        limits = 100 * settings.habit(FADES), math.inf
        yield _most(put, "Outlasts the moulding", 100 * put.stretch[1], limits, "%", said)
    if put.leans > LEANS:
        said = "", "Part of it goes round a bend and looks aside: make it smaller, or move it."
        yield _most(put, "Seen at one look", put.leans, (LEANS, math.inf), "°", said)


def _stands(put: Tooled) -> Verdict:
    """Whether a picture stands right on a bulge: in per cent of its lengths, or as many times what an angle may."""
    off = 100 * LONGER * max(put.longer / LONGER, put.turned / TURNED)
    told = f"lengths to {100 * put.longer:.1f} %, angles to {put.turned:.1f}°"
    said = (
        f"It is drawn so that it stands right on the formed leather, {told}.",
        f"No flat picture of this size lies on so round a bulge, but {told}: make it smaller, or put it where the "
        "leather is flatter.",
    )
    return _most(put, "Stands right once formed", off, (100 * LONGER, math.inf), "%", said, (("width", "auto"),))


def _apart(put: Tooled) -> Verdict:
    ruling = at_least(put.apart, APART, TOUCH)
    remedies: tuple[tuple[str, str], ...] = ()
    if isinstance(put.asked, Tooling):
        remedies = (("apart", f"{APART:g}mm"),)
    elif put.apart > 0 and (wide := put.width * APART / put.apart) <= put.room:
        remedies = (("width", f"{math.ceil(wide)}mm"),)
    said = "Enough leather stands between its lines."
    if ruling is not Ruling.OK:
        said = "What stands between two lines so near breaks out: draw it wider, or with fewer lines."
    return _said(put, ruling, "Lines a knife can follow", put.apart, APART, "mm", said, remedies)


def _ends(put: Tooled, found: Repeats) -> Verdict:
    """How a texture ends at both ends of its guide; no end of it is wrong."""
    assert isinstance(put.asked, Tooling)
    stamp, struck = put.asked.along, f"{found.whole} are struck whole, {found.parts} at the edge in part"
    ends = "end whole"
    if found.left:
        ends = f"leave {found.left:.1f} mm, {found.left / 2:.1f} at either end: tilt the stamp there"
    elif found.step != stamp:
        ends = f"end whole, {found.step - stamp:+.2f} mm between each"
    said = f"{found.along} stamps along the guide {ends}; {struck}."
    return _said(put, Ruling.OK, "Texture ends alike", found.left / 2, stamp / 2, "mm", said, ceiling=True)


class _Over:
    """What lies over what is tooled, once all is put together."""

    def __init__(self, made: Draft) -> None:
        self.made = made

    def of(self, put: Tooled) -> Verdict | None:
        """A verdict where something hides part of it; None where nothing does."""
        lie = None if put.field is None else self.made.lies.get(put.field.piece)
        every = [*put.lines, *put.texture]
        if lie is None or put.field is None or not every or self.made.rough:
            return None
        spots = _spread(every)
        placed = lie(spots)
        hidden, whose = np.zeros(len(spots), dtype=bool), ""
        for rise in RISES:
            by, name = self._near(placed.at + rise * placed.out, put, spots)
            hidden |= by
            whose = whose or name
        said = "", f"So much of it lies under the {whose} once the case is shut: put it elsewhere, or make it smaller."
        share = 100 * float(hidden.mean())
        return _most(put, "Seen once it is whole", share, (HIDDEN, math.inf), "%", said) if share > HIDDEN else None

    @cached_property
    def _leather(self) -> tuple[scipy.spatial.cKDTree, Array, list[str]]:
        """Places all over what leather is seen: in space, to be found; on their pieces; and whose they are."""
        spread = [(p, _over(p.cut)) for p in self.made.pieces if p.leather == "body" and p.name in self.made.lies]
        solid = np.vstack([self.made.lies[piece.name](flat).at for piece, flat in spread])
        whose = [piece.name for piece, flat in spread for _ in flat]
        return scipy.spatial.cKDTree(solid), np.vstack([flat for _, flat in spread]), whose

    def _near(self, places: Array, put: Tooled, spots: Array) -> tuple[Array, str]:
        """Which places have leather at them, and whose: of their own piece only what is far along it."""
        own = put.asked.piece
        tree, flat, whose = self._leather
        found, name = np.zeros(len(places), dtype=bool), ""
        for k, near in enumerate(tree.query_ball_point(list(places), NEAR)):
            near = [i for i in near if not put.patch or whose[i] != put.piece]
            other = [i for i in near if whose[i] != own or np.hypot(*(flat[i] - spots[k])) > OWN]
            if other:
                found[k], name = True, whose[other[0]]
        return found, name


def _spread(lines: list[Array]) -> Array:
    """Places along lines, no further apart than a step."""
    dense = [
        shapely.get_coordinates(shapely.segmentize(shapely.LineString(line), STEP)) for line in lines if len(line) > 1
    ]
    every = np.vstack(dense)
    return every[:: max(len(every) // 400, 1)]


def _over(cut: Array) -> Array:
    """Places all over a piece."""
    low, high = cut.min(axis=0), cut.max(axis=0)
    xs, ys = (np.arange(low[k] + STEP / 2, high[k], STEP) for k in (0, 1))
    spots = np.stack(np.meshgrid(xs, ys), axis=2).reshape(-1, 2)
    shape = shapely.Polygon(cut)
    return np.vstack([spots[shapely.contains_xy(shape, *spots.T)], cut[:1]])
