"""Roll: a top that is closed by rolling it down, a stiff stay along either upper edge to roll it on."""

from __future__ import annotations

import numpy as np

from tailor.core import habit, measure
from tailor.core.draft.flat_goods import paths
from tailor.core.draft.flat_goods.work import Work
from tailor.core.measure import Theme

MEASURES = (
    measure.count("roll.turns", Theme.SHAPE, "rolled by", "half turns that a roll top is rolled down by; 0 for none", 0,
        8, first=True),
    measure.pick("roll.closing", Theme.SHAPE, "roll closes by", "what holds the ends of a roll top", "none", ("none",),
        stock=("snap",)),
    measure.told("roll.length", Theme.SHAPE, "roll takes"),
)  # fmt: skip

NONE = "none"
STAY = habit.eye("roll.stay", 28.0, 15, 50, "height of the stay that a top is rolled on")
FROM_END = habit.bench("roll.from_end", 8.0, 3, 20, "from a button's least distance to a stay's end")


def rolled(turns: int, stay: float, layer: float) -> float:
    """Leather that so many half turns about a stay take, measured along the sheet, mm.

    stay: its height. layer: what is rolled, both panels and their stays. Each half turn takes the stay's height, and
    half a circle about what is rolled already: pi times half the layers that lie there. So it grows with every turn.
    """
    k = np.arange(1, turns + 1)
    return float(turns * stay + np.pi / 2 * layer * k.sum())


def roll_top(work: Work) -> float:
    """How far the panels go on above the mouth for a roll top; 0 where none is asked for, mm."""
    stay = work.habit(STAY)
    turns = int(work.say("roll.turns", 0.0, "none unless asked for", "count"))
    if not turns:
        return 0.0
    layer = 2 * work.leather.thickness
    return work.say("roll.length", rolled(turns, stay, layer) + stay,
        "its own stay, and each half turn about what is rolled already", turns=float(turns), stay=stay,
        layer=layer)  # fmt: skip


def stayed(work: Work, panels: tuple[str, ...], half: float, top: float) -> None:
    """A stay along the upper edge of each panel, (-half, half) wide, and a button at either end to close the roll."""
    stay = work.habit(STAY)
    if work.reasons["roll.turns"].value == 0:
        return
    margin, word = work.reasons["seam.margin"].value, work.word("roll.closing")
    inner = half - 2.0
    for panel in panels:
        name = f"{panel} stay"
        work.cut(name, paths.closed(paths.box(-inner, top - stay, inner, top), 3.0))
        line, corners = paths.bent(
            [(inner - margin, top - margin), (inner - margin, top - stay + margin),
             (margin - inner, top - stay + margin), (margin - inner, top - margin)], 3.0,
        )  # fmt: skip
        edge = paths.edge(line, 0.5, corners=corners)
        work.join(name, (name, "stay", edge), (panel, f"under the {name}", edge), margin=margin)
        work.finish_first(name, "all round, before it is sewn on")
    if word != NONE:
        x, y = inner - margin - work.settings.fastening("roll.closing").edge - work.habit(FROM_END), top - stay / 2
        for side, way in (("right", 1.0), ("left", -1.0)):
            on = [(name, (way * x, y)) for panel in panels for name in (panel, f"{panel} stay")]
            work.fit(word, f"roll, {side} end", "roll.closing", *on)
