"""Will what is sewn on lie as it should."""

from __future__ import annotations

from collections.abc import Iterator

from tailor.core.checks.verdict import Verdict, at_most
from tailor.core.draft.draft import Draft
from tailor.core.measure import Theme
from tailor.core.settings import Settings


def verdicts(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """Verdicts on each pocket that is moulded round a small tool's end, or has a gusset that turns its corners."""
    most = settings.number("leather.gather") + settings.number("leather.stretch_along")
    for slot, name in draft.added.items():
        if (edges := draft.reasons.get(f"{slot}.edges")) is not None:
            ruling = at_most(edges.value, 1.0, 1.5)
            yield Verdict(
                f"Edges go round their corners, {name}", ruling, 100 * edges.value, 100.0, "%",
                "Slit between the stitches, the edges of its gusset lie down." if edges.value <= 1 else
                "Even slit, its gusset's edges stretch more than they bear: make it larger, or give it bellows.",
                name, 0.0, ((f"{slot}.kind", "bellows pocket"),) if edges.value > 1 else (), Theme.SHAPE, ceiling=True,
            )  # fmt: skip
        if (reason := draft.reasons.get(f"{slot}.taken")) is None:
            continue
        ruling = at_most(reason.value, most, 1.5 * most)
        yield Verdict(
            f"Toe of the {name} lies down", ruling, reason.value, most, "shares",
            "Wet, the leather takes up and gives so much round the tool's end."
            if reason.value <= most else "It will wrinkle round the tool's end: take firmer leather, which slopes down "
            "more gently, or a loop, which is open below.",
            name, 0.0, ((f"{slot}.kind", "loop"),), Theme.SHAPE, ceiling=True,
        )  # fmt: skip
