"""What holds an order to its day, link by link; and what would make it ready sooner."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import datetime

from PyQt6.QtWidgets import QWidget

from tailor.core.bench.work import Plan
from tailor.core.shop.agenda import Agenda, Sooner
from tailor.core.shop.orders import Order
from tailor.core.shop.sitting import held
from tailor.desk import theme
from tailor.desk.words import Words

LINKS = 6  # of what holds an order
TRYING = "Trying what would make it sooner …"


class WhatHolds(Words):
    """Hidden until it is asked for."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent=parent)
        self.setAccessibleName("What holds the order in hand")
        self.setWordWrap(True)
        self.setFont(theme.text(9.5))
        self.hide()

    def show_order(
        self, order: Order | None, agenda: Agenda | None, plan: Plan | None, tried: Sequence[Sooner], now: datetime
    ) -> None:
        """Tell what holds an order; what was tried to make it sooner, where something was."""
        if not self.isVisible() or order is None or agenda is None or plan is None:
            self.setText("")
            return
        if mine := [one for one in tried if one.order == order.id]:
            found = [f"{one.said}: {_ready_by(one.ready)}" for one in mine]
            self.setText("\n".join([f"{order.name} would be ready", *found]))
            return
        lines = held(agenda.load, plan, order.id, now)
        more = [f"and {len(lines) - LINKS} before that"] if len(lines) > LINKS else []
        self.setText("\n".join([f"What holds {order.name}:", *lines[:LINKS], *more, "Q: what would make it sooner?"]))


def _ready_by(at: datetime | None) -> str:
    return "it cannot be done" if at is None else f"{at:%A} {at.day} {at:%B}, {at:%H:%M}"
