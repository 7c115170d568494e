"""From an old one: traced panels of a carrier already made, their edges joined, their counts and lengths checked."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
import shapely

from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.traced import Panel, Traced, runs
from tailor.core.carried.zones import Zone
from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.built import Cross, Slab
from tailor.core.draft.flat_goods.by_seams import Meeting, by_seams
from tailor.core.draft.flat_goods.work import Work
from tailor.core.draft.piece import Mark
from tailor.core.draft.stitch.holes import Edge
from tailor.core.draft.style import Order, Style
from tailor.core.errors import InputError
from tailor.core.fairing import Line, spaced
from tailor.core.measure import Theme

STITCH = "stitch"
ROUND = 3.0  # mm: radius that a stitch line goes round a sharp corner with
EASED = 0.01  # share that an edge is eased in by
WORDS = 10.0  # mm from an edge in to its number


def draft(order: Order) -> Draft:
    """The pattern of the traced panels. Raises InputError where none were traced."""
    if not order.traced.panels:
        raise InputError(
            "no panel of an old carrier was traced", "panels",
            "take them from a drawing or a photo (Job, Panels of an old one)",
        )  # fmt: skip
    work = Work(order)
    margin = work.margin(2 * work.leather.thickness)
    told = work.word("panel.traced")
    for panel in order.traced.panels:
        _cut(work, panel, margin if told == STITCH else 0.0)
    meetings = list[Meeting]()
    for seam in order.traced.seams:
        sides = []
        for n, said in enumerate(seam.edges):
            inset, name = 0.0 if told == STITCH else margin, order.traced.panel_of(said)
            line = _edge(order.traced.edge(said), inset, margin, said, turned=n % 2 == 1)
            sides.append((name, f"{seam.name}: {said}", line))
        work.join(seam.name, *sides, margin=margin, bend=0.0, ruled=False)
        if len({name for name, _, _ in sides}) == len(sides):
            meetings.append(Meeting({name: edge for name, _, edge in sides}))
        lengths = [side[2].anchors[-1] - side[2].anchors[0] for side in sides]
        work.claim(
            f"Edges of {seam.name} are of a length", max(lengths) - min(lengths),
            EASED * max(lengths), 0.04 * max(lengths),
            "What is a little longer is eased in as it is sewn.",
            "One edge is longer than it can be eased in. Trace it again, or see which layer lies further out.",
            where=" and ".join(seam.edges), ceiling=True, theme=Theme.STITCH,
        )  # fmt: skip
    whole = {panel.name: work.pieces[panel.name].cut for panel in order.traced.panels if panel.count == 1}
    for name, lie in by_seams(whole, work.leather.thickness, meetings).items():
        work.lie(name, lie)
    return _made(work, order.traced, order.loft)


def _cut(work: Work, panel: Panel, out: float) -> None:
    """A panel as it is cut: as it was traced, or by the allowance outside it where its stitch line was traced."""
    shape = shapely.simplify(shapely.Polygon(panel.ring), 0.02)
    grown = shapely.buffer(shape, out, join_style="mitre", mitre_limit=3.0) if out else shape
    ring = shapely.get_coordinates(grown)[:-1]
    piece = work.cut(panel.name, ring, count=panel.count)
    numbers = []
    for k, run in enumerate(runs(panel), 1):
        middle, along = run[len(run) // 2], run[min(len(run) // 2 + 2, len(run) - 1)] - run[max(len(run) // 2 - 2, 0)]
        inward = np.array([-along[1], along[0]]) / max(float(np.hypot(*along)), 1e-9)
        x, y = middle + WORDS * inward
        numbers.append(Mark("note", float(x), float(y), f"{k}"))
    work.label(piece.name, *numbers)


def _edge(run: Array, inset: float, margin: float, said: str, turned: bool) -> Edge:
    """The stitch line beside an edge, so far in from it, its corners rounded as a needle goes round them; from one
    margin past its start to one before its end. turned: it lies flesh to flesh on another, and runs the other way.
    """
    line = shapely.simplify(shapely.LineString(run), 0.02)
    for out in (inset + ROUND, -ROUND):
        moved = shapely.offset_curve(line, out, quad_segs=32)
        line = max(shapely.get_parts(moved), key=lambda part: float(part.length), default=line)
    if line.is_empty or line.length < 4 * margin:
        raise InputError(f"the edge '{said}' is too short to be sewn", "seam", "join longer edges")
    points = shapely.get_coordinates(shapely.segmentize(line, 1.0))
    return paths.edge(Line(spaced(points[::-1] if turned else points)), margin)


def _made(work: Work, traced: Traced, loft: Loft) -> Draft:
    thick, (wide, tall, deep) = work.leather.thickness, work.size
    room = Slab("thing", np.array(paths.box(-wide / 2, -deep / 2, wide / 2, deep / 2)))
    out = [
        Slab("leather", np.array(paths.box(-wide / 2, y, wide / 2, y + thick))) for y in (deep / 2, -deep / 2 - thick)
    ]
    first = np.array(traced.panels[0].outline)
    seen = first - [first[:, 0].mean(), first[:, 1].min() - loft.tip]
    # How it stands made up is not known from its panels: what it holds is shown beside the first of them.
    return work.built(None, work.size, [Cross(loft.tip, loft.tip + tall, (*out, room))], [Slab("leather", seen)])


def _never(loft: Loft, zones: Sequence[Zone]) -> str | None:
    return "it takes over traced panels: Job, Panels of an old one"


STYLE = Style(
    "From an old one", "Bags and boxes", draft, (), (), (), _never,
)  # fmt: skip
