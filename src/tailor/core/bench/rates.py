"""Rates: how long a maker takes over each kind of work."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Rates:
    """How long a maker takes, minutes: a practised hand at its own bench, until the log knows better.

    mark: a piece; cut: a metre; corner: each; hole: each that is pierced; hardware: each; glue_up: a seam or a sheet,
    and glue: a square metre; edge: a metre bevelled, sanded and burnished; mould: a case wetted and pressed; begin: a
    job taken up and cleared away. sewn: times what its stitches take by themselves. trace, carve, bevel: a metre of
    what is drawn on leather; strike: a stamp once.
    """

    mark: float = 3.0
    cut: float = 4.0
    corner: float = 0.15
    hole: float = 0.06
    hardware: float = 2.5
    glue_up: float = 3.0
    glue: float = 60.0
    edge: float = 14.0
    mould: float = 25.0
    begin: float = 10.0
    sewn: float = 1.15
    trace: float = 4.0
    carve: float = 8.0
    bevel: float = 10.0
    strike: float = 0.05
