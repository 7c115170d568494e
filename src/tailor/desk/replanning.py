"""Replanning: the ways there are to plan the work anew, where they differ, as buttons in a row."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from tailor.core.shop.agenda import Agenda, Way
from tailor.desk.foresight import Foresight


class Replanning(QHBoxLayout):
    """A button to a way; the one that is taken is pressed."""

    def __init__(self, foresight: Foresight) -> None:
        super().__init__()
        self.foresight = foresight
        self.buttons = {way: QPushButton() for way in Way}
        for way, button in self.buttons.items():
            button.setCheckable(True)
            button.clicked.connect(lambda _, w=way: foresight.choose(w))
            self.addWidget(button)
        self.addStretch(1)

    def show_ways(self, agenda: Agenda | None) -> None:
        """Each way with when all ends by it; none where there is but one, or they come to the same."""
        plans = self.foresight.plans
        ends = {found.plan.end for found in plans.values()}
        differ = len(plans) > 1 and (len(ends) > 1 or any(found.moved for found in plans.values()))
        for way, button in self.buttons.items():
            button.setVisible(differ and way in plans)
            button.setChecked(way is self.foresight.taken)
            if way in plans and agenda is not None:
                late = sum(by > 0 for by in plans[way].plan.late(agenda.load.work).values())
                end, moved = agenda.load.when(plans[way].plan.end), plans[way].moved
                button.setText(f"{way}: {end:%a} {end.day} {end:%b}" + (f", {late} late" if late else ""))
                button.setToolTip(f"Planned {way}: {moved} steps at another time than they were, the last of "
                                  f"all ends {end:%A} {end.day} {end:%B} at {end:%H:%M}")  # fmt: skip
