"""Will what is sewn on lie as it should."""

from __future__ import annotations

from collections.abc import Iterator

from tailor.core.checks.verdict import Verdict, at_most
from tailor.core.draft.draft import Draft
from tailor.core.measure import Theme
from tailor.core.settings import Settings


def verdicts(settings: Settings, draft: Draft) -> Iterator[Verdict]:
    """Verdicts on each pocket that is moulded round the end of a small tool."""
    most = settings.number("leather.gather") + settings.number("leather.stretch_along")
    for slot, name in draft.added.items():
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
