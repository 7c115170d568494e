"""Reason: a value, the rule that won, and what it was worked out from."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

PINNED = "pinned by the maker"


@dataclass(frozen=True)
class Reason:
    """Why a number is what it is.

    name: the dimension, by its setting key where it has one.
    value, unit: the number; unit is "mm", "°", "" (a plain number) or "count".
    rule: the rule that won, as a phrase a maker can read.
    inputs: what the rule was fed, name to value.
    others: what the rules that lost would have given.
    """

    name: str
    value: float
    unit: str
    rule: str
    inputs: Mapping[str, float] = field(default_factory=dict)
    others: Mapping[str, float] = field(default_factory=dict)

    @property
    def pinned(self) -> bool:
        return self.rule == PINNED

    def pin(self, value: float) -> Reason:
        """The same dimension with the maker's own value; the computed one is kept beside it."""
        return Reason(self.name, value, self.unit, PINNED, self.inputs, {**self.others, self.rule: self.value})

    def corrected(self, value: float, rule: str) -> Reason:
        """The same dimension as it was corrected; the computed one is kept beside it."""
        return Reason(self.name, value, self.unit, rule, self.inputs, {**self.others, self.rule: self.value})


def greatest(
    name: str, unit: str, candidates: Mapping[str, float], inputs: Mapping[str, float] | None = None
) -> Reason:
    """The rule that asks for most wins. candidates: rule to the value it asks for (at least one)."""
    rule = max(candidates, key=lambda r: candidates[r])
    others = {r: v for r, v in candidates.items() if r != rule}
    return Reason(name, float(candidates[rule]), unit, rule, dict(inputs or {}), others)


def stated(name: str, value: float, unit: str, rule: str, **inputs: float) -> Reason:
    """A reason with only one rule in play."""
    return Reason(name, float(value), unit, rule, inputs)
