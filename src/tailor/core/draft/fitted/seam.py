"""The rules of a welted seam: how many layers, how far out, how wide, how the stitches sit."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from tailor.core import habit
from tailor.core.carried.loft import Array, Loft
from tailor.core.carried.zones import Zone, ZoneKind, of_kind
from tailor.core.leather.leather import Leather
from tailor.core.leather.stack import Layer, Stack
from tailor.core.reason import Reason, greatest, stated
from tailor.core.settings import Settings

MOST_WELTS = habit.bench("welt.most", 4, 2, 8, "layers of welt, above which a gusset is wanted", habit.COUNT)
KEEN = habit.eye("welt.keen", 6.0, 2, 12, "of thickness, above which a thing with no edge marked is blunt")
WELT_WIDTH = habit.bench("welt.usual", 12.0, 10, 16, "width of a welt that nothing else decides")
LEAST_INSET = habit.bench("welt.inset", 4.0, 2.5, 8, "from the welt's inner edge to the thread at the least")
THREAD_ROOM = habit.bench("welt.thread_room", 3.0, 1.5, 8, "of leather between a sharp edge's room and the thread")
LEAST_ROOM = habit.bench("welt.room", 1.0, 0.5, 3, "of room between object and welt that any welt keeps")
MOST_SPARE = 3.0  # mm by which a hollow is wider than the lines that are drawn outside it
NOTICED = 0.5  # mm: let out by less than this, a standoff is told by the rule that asked for most of it
FLOWS = "the seam line flows on without a hollow"
BESIDE = "thickness beside the seam"


def seam_half(loft: Loft, rows: Array, zones: Sequence[Zone]) -> tuple[float, float]:
    """Greatest thickness in the half of the object next to the seam, and the row it is at, mm.

    Looked for along the edges where any are marked, else on every row given.
    """
    edges = of_kind(zones, ZoneKind.EDGE)
    along = np.zeros(len(rows), dtype=bool)
    for edge in edges:
        along |= (rows >= edge.low) & (rows <= edge.high)
    rows = rows[along] if along.any() else rows
    sections = loft.sections(rows)
    half = sections.x.shape[1] // 2
    thick = (sections.front + sections.back)[:, half:].max(axis=1)
    return float(thick.max()), float(rows[thick.argmax()])


def welt_layers(
    settings: Settings, leather: Leather, zones: Sequence[Zone], sharp: bool, thickness: float, y: float
) -> tuple[Reason, Reason]:
    """Thickness of one welt layer, and how many layers keep an edge free of pinch.

    sharp: whether what no zone tells of may be sharp. thickness, y: of the object beside the seam, and where.
    """
    layer = settings.settled(stated("welt.thickness", leather.thickness, "mm", "welts are cut from the body leather"))
    marked = of_kind(zones, ZoneKind.EDGE, ZoneKind.POINT)
    if not marked and (not sharp or thickness > settings.habit(KEEN)):
        rule = "nothing sharp lies beside the seam: one is enough, the leather comes down to it by itself"
        if sharp:
            rule = "so thick beside the seam, it is taken to be blunt there: one is enough"
        return layer, settings.settled(stated("welt.layers", 1.0, "count", rule))
    wanted = int(np.ceil(thickness / layer.value - 1e-9))
    if wanted > settings.habit(MOST_WELTS):
        rule = "thicker there than any welt: one stands between what is sharp and the thread, and carries the approach"
        return layer, settings.settled(stated("welt.layers", 1.0, "count", rule, thickness=thickness))
    rule = "as thick as the object is beside the seam"
    inputs = {BESIDE: thickness, "at y": y, "one layer": layer.value}
    return layer, settings.settled(Reason("welt.layers", float(max(wanted, 1)), "count", rule, inputs))


def seam_stack(leather: Leather, layer: float, layers: int) -> Stack:
    """Front, welts and back, as the seam goes through them."""
    body = Layer("body", leather.thickness)
    return Stack((body, *(Layer("welt", layer) for _ in range(layers)), body))


@dataclass(frozen=True)
class Widths:
    """How the welt's width is shared: inset (inner edge to stitch) and margin (stitch to cut line)."""

    width: Reason
    inset: Reason
    margin: Reason

    def outer(self, proud: float) -> tuple[float, float | None]:
        """From the stitch to where the welt is cut, and to where it is trimmed, None where that is the same, mm."""
        beyond, margin = self.width.value - self.inset.value, self.margin.value
        if beyond < margin - 1e-9:
            return beyond, None  # it stops short of the edge
        outer = max(margin + proud, beyond)
        return outer, margin if outer > margin + 1e-9 else None


def widths(settings: Settings, stack: Stack, to_thread: float = 0.0) -> Widths:
    """Margin from the stack; inset and width from each other, whichever is pinned. to_thread: least from an edge.
    mm.
    """
    margin = settings.settled(
        greatest(
            "seam.margin",
            "mm",
            {"the stack's height sets the margin": stack.margin(), "half the stack": stack.height / 2},
            {"stack": stack.height},
        ),
    )
    whole = settings.number("welt.width") if "welt.width" in settings else settings.habit(WELT_WIDTH)
    less = "welt width less the margin" if "welt.width" in settings else "a usual welt width less the margin"
    inset = greatest(
        "seam.stitch_inset",
        "mm",
        {
            less: whole - margin.value,
            "least that holds the thread": settings.habit(LEAST_INSET),
            "so much welt stands between the edge and the thread": to_thread - settings.number("fit.edge"),
        },
        {"welt width": whole, "margin": margin.value},
    )
    inset = settings.settled(inset)
    width = settings.settled(
        stated("welt.width", inset.value + margin.value, "mm", "stitch inset and margin together",
               inset=inset.value, margin=margin.value),
    )  # fmt: skip
    return Widths(width, inset, margin)


@dataclass(frozen=True)
class Standoff:
    """Where the welt's inner edge runs: x_welt (n,) at rows (n,), mm, and why.

    wanted: (rules, n) the x that each rule asks for. let_out: (n,) mm further out for the line to flow.
    eased: (n,) mm further out as corrected after a mock-up. pinned: the maker's own standoff, or None.
    """

    rows: Array
    x_seam: Array
    x_welt: Array
    rules: tuple[str, ...]
    wanted: Array
    let_out: Array
    eased: Array
    inputs: Mapping[str, float]
    pinned: float | None

    @property
    def distance(self) -> Array:
        """The standoff at each row, (n,), mm."""
        return self.x_welt - self.x_seam

    def reason(self) -> Reason:
        """Why the standoff is what it is, told at the row where it is greatest."""
        return self.reason_at(int((self.wanted.max(axis=0) - self.x_seam + self.let_out).argmax()))

    def reason_at(self, k: int) -> Reason:
        """Why the standoff is what it is at row k."""
        asked = {r: float(w[k] - self.x_seam[k]) for r, w in zip(self.rules, self.wanted, strict=True)}
        asked = {r: d for r, d in asked.items() if np.isfinite(d)}
        more = float(self.let_out[k])
        least = max(asked.values())
        if more > NOTICED:
            asked[FLOWS] = least + more
        eased = float(self.eased[k])
        inputs = {"at y": float(self.rows[k]), **self.inputs, "let out to flow": more, "eased after the mock-up": eased}
        told = greatest("seam.standoff", "mm", asked, inputs)
        computed = replace(told, value=least + more + eased)
        return computed if self.pinned is None else computed.pin(self.pinned)


def easing(settings: Settings, rows: Array) -> Array:
    """How far corrections let the seam out at each row, (n,), mm: each a hump that dies away over its reach."""
    every = np.full(len(rows), 0.0 if "seam.standoff" in settings else float(settings.corrected("seam.standoff")))
    for c in settings.corrections:
        if c.easing:
            every += c.by * (1 + np.cos(np.pi * np.clip((rows - c.y) / c.reach, -1, 1))) / 2
    return every
