"""The sheet of an order: for whom and by when, how far it is, what it comes to, and how the shop reckons."""

from __future__ import annotations

from PyQt6.QtCore import pyqtBoundSignal, pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tailor.core.shop.orders import Order, State
from tailor.core.shop.quote import Terms
from tailor.core.shop.reckoning import Reckoned
from tailor.desk.bill import Bill
from tailor.desk.words import Words

FIELDS = {"name": "order", "whom": "for", "wanted": "wanted by", "promised": "promised", "note": "note"}
DAYS = ("wanted", "promised")
TERMS = {
    "hour": ("an hour", "the price of an hour of hands"),
    "waste": ("lost", "share of a hide that is lost, where it has not been laid out"),
    "margin": ("margin", "share that is added to all of it"),
    "currency": ("in", "a word or a sign before a sum"),
}
SHARES = ("waste", "margin")
STATES = tuple(map(str, State))


class OrderSheet(QFrame):
    """typed: into a field of the order. turned: how far it is. reckoned_by: a term of the shop was typed. begun, added,
    quoted, handed: a new order, the job in hand into this one, its quote, and its sheet are wanted.
    """

    typed = pyqtSignal(str, str)
    turned = pyqtSignal(object)
    reckoned_by = pyqtSignal(str, str)
    begun = pyqtSignal()
    added = pyqtSignal()
    quoted = pyqtSignal()
    handed = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("sheet")
        self.fields = {key: QLineEdit() for key in FIELDS}
        form = QFormLayout()
        form.setSpacing(5)
        for key, field in self.fields.items():
            field.setAccessibleName(f"Order, {FIELDS[key]}")
            field.editingFinished.connect(lambda k=key: self._left(self.fields[k], k, self.typed))
            form.addRow(Words(FIELDS[key]), field)
        for key in DAYS:
            self.fields[key].setToolTip("A day such as 2026-04-30, 30.4., or in 9 days")
        self.state = QComboBox()
        self.state.addItems(STATES)
        self.state.setAccessibleName("How far the order is")
        self.state.activated.connect(lambda n: self.turned.emit(State(STATES[n])))
        form.addRow(Words("is"), self.state)
        self.bill = Bill()
        scroll = QScrollArea()
        scroll.setObjectName("sheet")
        scroll.setWidget(self.bill)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.terms = {key: QLineEdit() for key in TERMS}
        reckoned, row = QHBoxLayout(), QHBoxLayout()
        for key, term in self.terms.items():
            term.setAccessibleName(f"How the shop reckons: {TERMS[key][1]}")
            term.setToolTip(TERMS[key][1])
            term.editingFinished.connect(lambda k=key: self._left(self.terms[k], k, self.reckoned_by))
            reckoned.addWidget(Words(TERMS[key][0]))
            reckoned.addWidget(term)
        self.buttons = {}
        wanted = {"new": ("New order", self.begun), "add": ("Add the job in hand", self.added),
                  "quote": ("Quote …", self.quoted), "sheet": ("Order sheet …", self.handed)}  # fmt: skip
        for key, (text, signal) in wanted.items():
            self.buttons[key] = QPushButton(text)
            self.buttons[key].setProperty("plain", "false")
            self.buttons[key].clicked.connect(lambda _, s=signal: s.emit())
            row.addWidget(self.buttons[key])
        inside = QVBoxLayout(self)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addLayout(form)
        inside.addWidget(scroll, 1)
        inside.addLayout(reckoned)
        inside.addLayout(row)

    def show_order(self, order: Order | None, terms: Terms | None, found: Reckoned | None, writes: bool) -> None:
        """Show an order, how the shop reckons, and what it comes to. writes: whether anything can be changed."""
        for widget in (*self.fields.values(), self.state, *(self.buttons[key] for key in ("add", "quote", "sheet"))):
            widget.setEnabled(order is not None and writes)
        for widget in (*self.terms.values(), self.buttons["new"]):
            widget.setEnabled(terms is not None and writes)
        if terms is None:
            return
        for key, term in self.terms.items():
            number = getattr(terms, key)
            _put(term, f"{number:.0%}" if key in SHARES else f"{number:g}" if key == "hour" else number)
        if order is None:
            return
        for key, field in self.fields.items():
            value = getattr(order, key)
            _put(field, "" if value is None else str(value))
        self.state.setCurrentText(order.state)
        self.bill.show_quote(found.quote if found else None, found.wants if found else (), terms)

    @staticmethod
    def _left(field: QLineEdit, key: str, signal: pyqtBoundSignal) -> None:
        """Tell what was typed, once."""
        if field.isModified():
            field.setModified(False)
            signal.emit(key, field.text().strip())


def _put(field: QLineEdit, text: str) -> None:
    """Show a value in a field, unless something else is being typed there."""
    if not (field.hasFocus() and field.isModified()):
        field.setText(text)
