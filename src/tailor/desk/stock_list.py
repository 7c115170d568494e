"""What is on the shelves: a line for each article, with how much there is, what one costs, and what is to be bought."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from tailor.core.bench.supplies import UNITS, Kind
from tailor.core.errors import InputError
from tailor.core.shop.stock import Article, Want
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.words import Words

MEANS = {"there": "how much there is", "price": "price of one"}
NARROW = 66  # px of a number


class StockList(QWidget):
    """counted: of an article, a number was typed. added: a kind of article; its name and size as typed."""

    counted = pyqtSignal(object, str, str)
    added = pyqtSignal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.lines: dict[str, dict[str, QLineEdit]] = {}
        self.said: list[str] = []
        self._grid = QGridLayout()
        self._grid.setSpacing(3)
        self._grid.setColumnStretch(0, 1)
        inner = QWidget()
        inner.setLayout(self._grid)
        scroll = QScrollArea()
        scroll.setObjectName("sheet")
        scroll.setWidget(inner)
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        self.kind = QComboBox()
        self.kind.addItems([str(kind) for kind in Kind])
        self.kind.setAccessibleName("Kind of what is new on the shelves")
        self.name = QLineEdit()
        self.name.setPlaceholderText("rapid rivet 9, 9 mm")
        self.name.setAccessibleName("What is new on the shelves, and its size")
        self.name.returnPressed.connect(self._add)
        self.button = QPushButton("Add")
        self.button.setProperty("plain", "false")
        self.button.clicked.connect(lambda _: self._add())
        adding = QHBoxLayout()
        for widget, stretch in ((self.kind, 0), (self.name, 1), (self.button, 0)):
            adding.addWidget(widget, stretch)
        head = Words("On the shelves")
        head.setFont(theme.heading(12))
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(0, 0, 0, 0)
        all_.addWidget(head)
        all_.addWidget(scroll, 1)
        all_.addLayout(adding)

    def show_stock(self, stock: Sequence[Article], wants: Sequence[Want], units: System, writes: bool) -> None:
        """Show what there is. wants: what is to be bought. writes: whether it can be changed. The hand stays."""
        hand = next(((id_, key) for id_, own in self.lines.items() for key, f in own.items() if f.hasFocus()), None)
        while (item := self._grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.deleteLater()
        self.lines, self.said = {}, []
        short = {article.id: want for want in wants for article in want.articles}
        for column, head in enumerate(("", "there", "price")):
            self._grid.addWidget(Words(head), 0, column)
        for n, article in enumerate(sorted(stock, key=lambda a: (a.kind, a.name, a.size)), start=1):
            size = f", {format_length(article.size, units)}" if article.size else ""
            want = short.get(article.id)
            words = Words(f"{article.name}{size}" + (f" · buy {want.missing.amounting}" if want else ""))
            words.setStyleSheet(f"color: {theme.RULING_STOP};" if want else "")
            self.said.append(words.text())
            self._grid.addWidget(words, n, 0)
            self.lines[article.id] = {}
            typed = {"there": f"{article.there:g}", "price": f"{article.price:.2f}"}
            for column, (key, text) in enumerate(typed.items(), start=1):
                field = self._field(article, f"{article.name}{size}", key, text)
                field.setEnabled(writes)
                self._grid.addWidget(field, n, column)
        self._grid.setRowStretch(len(stock) + 1, 1)
        for widget in (self.kind, self.name, self.button):
            widget.setEnabled(writes)
        if hand is not None and hand[0] in self.lines:
            self.lines[hand[0]][hand[1]].setFocus()

    def _field(self, article: Article, said: str, key: str, text: str) -> QLineEdit:
        field = QLineEdit(text)
        field.setFixedWidth(NARROW)
        field.setAccessibleName(f"{said}, {key}, {UNITS[article.kind]}")
        field.setToolTip(f"{MEANS[key]}, {UNITS[article.kind]}")
        field.editingFinished.connect(lambda: self._typed(article, key, field))
        self.lines[article.id][key] = field
        return field

    def _typed(self, article: Article, key: str, field: QLineEdit) -> None:
        if field.isModified():
            field.setModified(False)
            self.counted.emit(article, key, field.text())

    def _add(self) -> None:
        if self.name.text().strip():
            self.added.emit(self.kind.currentText(), self.name.text())
            self.name.clear()


def typed_number(text: str, where: str) -> float:
    """A number as it was typed. Raises InputError naming where."""
    try:
        return float(text.strip().replace(",", "."))
    except ValueError:
        raise InputError(f"'{text.strip()[:40]}' is no number", where, "give a number such as 12 or 0.35") from None
