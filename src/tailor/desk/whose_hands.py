"""Whose hands are at work, and in which hours of the week; typed where it stands."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from datetime import datetime

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from tailor.core.errors import InputError
from tailor.core.shop.hands import Hand, days_off, hours, hours_said
from tailor.desk.counter import Counter


class WhoseHands(QWidget):
    """other: these are another's hands now. refused: what was typed cannot be, and why.

    named: somebody said whose hands these are; else they are whoever's is next.
    """

    other = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(self, counter: Counter, clock: Callable[[], datetime], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.counter, self._clock = counter, clock
        self.named = False
        self.who = QComboBox()
        self.who.setAccessibleName("Whose hands")
        self.who.setEditable(True)
        self.who.setInsertPolicy(QComboBox.InsertPolicy.NoInsert)
        self.who.setToolTip("Whose hands these are; type another name for somebody who works here too")
        self.who.activated.connect(lambda _: self._chosen())
        if (name := self.who.lineEdit()) is not None:
            name.returnPressed.connect(self._another)
        self.hours, self.off = QLineEdit(), QLineEdit()
        self.hours.setAccessibleName("Hours of these hands")
        self.hours.setToolTip("Hours of a week, such as Mon-Fri 18:00-21:00, Sat 9-13")
        self.off.setAccessibleName("Days off of these hands")
        self.off.setPlaceholderText("days off")
        self.off.setToolTip("Days without work, parted by commas: 2026-12-24, 30.4., in 9 days")
        for field in (self.hours, self.off):
            field.editingFinished.connect(lambda f=field: self._typed(f))
        first, second = QHBoxLayout(), QHBoxLayout()
        first.addWidget(self.who, 1)
        second.addWidget(self.hours, 3)
        second.addWidget(self.off, 2)
        both = QVBoxLayout(self)
        both.setContentsMargins(0, 0, 0, 0)
        both.setSpacing(4)
        both.addLayout(first)
        both.addLayout(second)

    @property
    def hand(self) -> str:
        """The name of whoever works."""
        return self.who.itemText(self.who.currentIndex())

    def refresh(self) -> None:
        """Show who works in the shop, and how."""
        shop = self.counter.shop
        if shop is None:
            return
        names = [hand.name for hand in shop.at_work]
        if names != [self.who.itemText(n) for n in range(self.who.count())]:
            self.who.clear()
            self.who.addItems(names)
            self.named = False
        self._show_hours()

    def turn_to(self, name: str) -> None:
        """These are somebody's hands, unless somebody said whose they are."""
        if not self.named and name != self.hand:
            self.who.setCurrentIndex(max(self.who.findText(name), 0))
            self._show_hours()

    def _hand(self) -> Hand | None:
        shop = self.counter.shop
        return next((hand for hand in shop.at_work if hand.name == self.hand), None) if shop else None

    def _show_hours(self) -> None:
        hand = self._hand()
        said = {self.hours: hours_said(hand.hours), self.off: ", ".join(map(str, hand.off))} if hand else {}
        for field in (self.hours, self.off):
            field.setEnabled(hand is not None and not self.counter.read_only)
            if not (field.hasFocus() and field.isModified()):
                field.setText(said.get(field, ""))
                field.setCursorPosition(0)

    # What a hand does

    def _chosen(self) -> None:
        self.named = True
        self._show_hours()
        self.other.emit()

    def _typed(self, field: QLineEdit) -> None:
        """Hours, or days off, of whoever is at work."""
        hand, shop = self._hand(), self.counter.shop
        if not field.isModified() or hand is None or shop is None:
            return
        field.setModified(False)
        try:
            if field is self.hours:
                now = replace(hand, hours=hours(field.text()))
            else:
                now = replace(hand, off=days_off(field.text(), self._clock().date()))
        except InputError as error:
            self.refused.emit(str(error))
            self._show_hours()
            return
        if now != hand:
            self.counter.put(f"hours of {hand.name}", (hand if hand in shop.hands else None, now))

    def _another(self) -> None:
        """Somebody else works here too, from now on; or one who is there was named."""
        shop, name = self.counter.shop, self.who.currentText().strip()
        if shop is None or not name or self.counter.read_only:
            return
        if self.who.findText(name) >= 0:
            self.who.setCurrentIndex(self.who.findText(name))
            self._chosen()
            return
        try:
            new = Hand(uuid.uuid4().hex[:12], name)
        except InputError as error:
            self.refused.emit(str(error))
            return
        usual = [] if shop.hands else [(None, hand) for hand in shop.at_work]  # who was taken for granted stays
        self.counter.put(f"{name} works here", *usual, (None, new))
        self.other.emit()
