"""Compared: what differs between two drafts of an object, in numbers."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from tailor.core.checks.verdict import Verdict
from tailor.core.draft.draft import Draft

SEEN = 0.05  # mm: less than this is the same
# Numbers worth setting side by side, in the order they are told: reasons by name, verdicts by theirs.
MEASURES = (
    ("leather.thickness", "leather"), ("seam.standoff", "standoff"), ("seam.toe", "toe"), ("welt.stack", "welt"),
    ("mouth.y", "mouth"), ("mould.valley", "valley"), ("mould.margin", "form margin"), ("seam.thread", "thread"),
)  # fmt: skip
JUDGED = (
    ("Leather stretches that far", "stretch"), ("Leather takes up the fullness", "fullness"),
    ("Thickness left where it is drawn", "thickness left"), ("Hold by friction", "hold"),
)  # fmt: skip


@dataclass(frozen=True)
class Difference:
    """One number of the draft that is held and of the present one; None where one of them has no such number."""

    name: str
    unit: str
    held: float | None
    now: float | None

    @property
    def change(self) -> float | None:
        return None if self.held is None or self.now is None else self.now - self.held


def differences(
    held: Draft, held_said: Sequence[Verdict], now: Draft, now_said: Sequence[Verdict]
) -> tuple[Difference, ...]:
    """What can be told of either, the leather's area, front and back path at the widest, and the ledger's numbers."""
    found = [Difference("leather area", "cm²", _area(held), _area(now)),
             Difference("front path", "mm", _path(held), _path(now))]  # fmt: skip
    for key, name in MEASURES:
        a, b = _reason(held, key), _reason(now, key)
        if a is not None or b is not None:
            reason = now.reasons.get(key) or held.reasons.get(key)
            found.append(Difference(name, "mm" if reason is None else reason.unit, a, b))
    for said, name in JUDGED:
        before, after = (next((v for v in verdicts if v.name == said), None) for verdicts in (held_said, now_said))
        judged = before or after
        if judged is not None:
            numbers = (v.value if v else None for v in (before, after))
            found.append(Difference(name, judged.unit, *numbers))
    return tuple(found)


def grown(before: Draft, after: Draft) -> str:
    """By how much the first piece of a draft is another size than it was, in words."""
    across, along = np.ptp(after.pieces[0].cut, axis=0) - np.ptp(before.pieces[0].cut, axis=0)
    told = [f"{abs(by):.1f} mm {('less', 'more')[by > 0]} {way}"
            for by, way in ((float(across), "across"), (float(along), "along")) if abs(by) >= SEEN]  # fmt: skip
    return f"{after.pieces[0].name} {' and '.join(told) or 'the same to a tenth of a millimetre'}"


def _reason(made: Draft, key: str) -> float | None:
    if key == "leather.thickness":
        return made.leather.thickness
    return made.value(key) if key in made.reasons else None


def _area(made: Draft) -> float:
    return sum(p.area * p.count for p in made.pieces if p.leather != "card") / 100


def _path(made: Draft) -> float | None:
    return max((row.front_path for row in made.rows), default=None)
