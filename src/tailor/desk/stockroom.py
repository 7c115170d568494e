"""The stockroom: the leathers of the shop with their hides and offcuts by picture, and the stock of all else."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any, cast

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPolygonF, QResizeEvent
from PyQt6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tailor.core import incoming
from tailor.core.bench.supplies import Kind
from tailor.core.carried.loft import Array
from tailor.core.errors import InputError
from tailor.core.leather.leather import APPROACH
from tailor.core.shop.leathers import Skin, Sort, Use
from tailor.core.shop.stock import Article
from tailor.core.units import System, format_length, parse_length
from tailor.desk import theme
from tailor.desk.cards import ARROWS, Card, Thing
from tailor.desk.counter import Counter
from tailor.desk.marking_up import MarkingUp
from tailor.desk.rows import Row, Rows
from tailor.desk.stock_list import StockList, typed_number
from tailor.desk.taking_in import TakingIn
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, MADDER
from tailor.files.hides import Photographed

if TYPE_CHECKING:
    from tailor.core.cut.laying import Hide
    from tailor.core.shop.stock import Want

HINT = (
    "Arrows go along, Enter marks a hide up, Delete uses it up. Take in a rectangle such as 600x300mm, a usual shape "
    "such as side 2.1 m² or shoulder 9 ft², or an outline. Esc goes back."
)
EMPTY = "There is no leather yet. Give one its name and its thickness at the right, and press New leather."
FIELDS = {"name": "leather", "thickness": "thick", "price": "price of a m²", "tannage": "tanned", "colour": "colour",
          "note": "note"}  # fmt: skip
SHOWN = 400.0  # of the size of a hide, that its picture may be off


class Stockroom(QWidget):
    """Leathers at the left; at the right the sheet of the one in hand, and the stock.

    left: back to the bench. refused: what was typed cannot be, and why.
    """

    left = pyqtSignal()
    refused = pyqtSignal(str)

    def __init__(
        self, bench: Workbench, counter: Counter, wants: Callable[[], tuple[Want, ...]], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("stockroom")
        self.setAccessibleName("Stockroom")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench, self.counter, self._wants = bench, counter, wants
        self.chosen = ""  # the id of the leather in hand
        self._opening = ""  # the id of a hide that is marked up as soon as it is in the book
        self._put_together()
        counter.came.connect(self._came)

    def _put_together(self) -> None:
        title = Words("Leather and stock")
        title.setFont(theme.heading(22))
        self._said = Words(EMPTY)
        self._said.setWordWrap(True)
        self.rows = Rows()
        hint = Words(HINT)
        hint.setWordWrap(True)
        for words in (title, self._said, hint):
            words.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        self.taking = TakingIn(lambda: self.sort, lambda: self.bench.job.units)
        self.taking.refused.connect(self.refused)
        self.taking.told.connect(self._tell)
        self.taking.took.connect(self._take_in)
        self.taking.taped.connect(self._turn_to_tape)
        self._all = QWidget()
        every = QVBoxLayout(self._all)
        every.setContentsMargins(0, 0, 0, 0)
        every.addWidget(self.rows, 1)
        every.addWidget(self.taking)
        every.addWidget(hint)
        self.marking = MarkingUp(self.counter, lambda: self.bench.job.units)
        self.marking.refused.connect(self.refused)
        self.marking.left.connect(self._back_to)
        self.marking.hide()
        lying = QVBoxLayout()
        for part in (title, self._said):
            lying.addWidget(part)
        lying.addWidget(self._all, 1)
        lying.addWidget(self.marking, 1)
        lying.addWidget(self.taking.taping, 1)
        self._sheet = self._made_sheet()
        both = QHBoxLayout(self)
        both.setContentsMargins(26, 16, 20, 14)
        both.setSpacing(18)
        both.addLayout(lying, 1)
        both.addWidget(self._sheet)

    def _made_sheet(self) -> QWidget:
        sheet = QFrame()
        sheet.setObjectName("sheet")
        self.fields = {key: QLineEdit() for key in FIELDS}
        form = QFormLayout()
        form.setSpacing(4)
        for key, field in self.fields.items():
            field.setAccessibleName(f"Leather, {FIELDS[key]}")
            field.editingFinished.connect(lambda k=key: self._typed(k))
            form.addRow(Words(FIELDS[key]), field)
        self.temper, self.use = QComboBox(), QComboBox()
        for box, words, key in ((self.temper, tuple(APPROACH), "temper"), (self.use, tuple(map(str, Use)), "use")):
            box.addItems(words)
            box.setAccessibleName(f"Leather, {key}")
            box.activated.connect(lambda _, b=box, k=key: self._change(k, b.currentText()))
            form.addRow(Words({"temper": "temper", "use": "cut for"}[key]), box)
        self.new = QPushButton("New leather")
        self.new.setProperty("plain", "false")
        self.new.clicked.connect(lambda _: self.begin())
        self.stock = StockList()
        self.stock.counted.connect(self._counted)
        self.stock.added.connect(self._add)
        inside = QVBoxLayout(sheet)
        inside.setContentsMargins(14, 12, 14, 12)
        inside.addLayout(form)
        inside.addWidget(self.new)
        inside.addWidget(self.stock, 1)
        return sheet

    # What is shown

    def _tell(self, said: str) -> None:
        self._said.setText(said)
        self._said.setVisible(bool(said))

    def show_now(self) -> None:
        """It is turned to."""
        self._tell("Opening the shop book …")
        self.counter.open()
        if self.counter.shop is not None:
            self._came()
        self.setFocus()

    @property
    def sort(self) -> Sort | None:
        """The leather in hand."""
        shop = self.counter.shop
        return None if shop is None else next((sort for sort in shop.sorts if sort.id == self.chosen), None)

    def _came(self) -> None:
        shop = self.counter.shop
        if shop is None or not self.isVisible():
            return
        sorts = sorted(shop.sorts, key=lambda sort: (sort.use, -sort.thickness, sort.name))
        if self.sort is None:
            self.chosen = sorts[0].id if sorts else ""
        self._tell(self.counter.read_only or ("" if sorts else EMPTY))
        rows = []
        for sort in sorts:
            lying = [skin for skin in shop.skins if skin.sort == sort.id and not skin.used]
            area = sum(skin.area for skin in lying) / 1e6
            price = f"{shop.terms.said(sort.price)} a m²" if sort.price else "no price"
            thick = format_length(sort.thickness, self.bench.job.units)
            row = Row(sort.id, f"{sort.name} · {thick} {sort.temper} · {price} · {area:.2f} m²")
            row.chosen.connect(lambda i=sort.id: self._choose(i))
            row.put(*(self._card(row, skin) for skin in sorted(lying, key=lambda s: (bool(s.off), -s.area))))
            rows.append(row)
        self.rows.show_rows(rows)
        if self._opening and any(skin.id == self._opening for skin in shop.skins):
            self.mark_up(self._opening)
            self._opening = ""
        self.marking.refresh()
        self._show_sheet()
        writes = not self.counter.read_only
        self.stock.show_stock(shop.stock, self._wants(), self.bench.job.units, writes)

    def _card(self, row: Row, skin: Skin) -> Card:
        marks = f" · {len(skin.hide.forbidden)} marks" if skin.hide.forbidden else ""
        thick = _between(skin.hide, self.bench.job.units)
        said = f"{'offcut, ' if skin.off else ''}{skin.area / 1e6:.2g} m²{marks}{thick}"
        card = Card(Thing(str(skin.hide.id), said, _drawn(skin.hide), lambda: self.mark_up(skin.id)), row)
        card.setProperty("skin", skin.id)
        card.reached.connect(lambda: self._choose(skin.sort))
        return card

    def _choose(self, id_: str) -> None:
        if id_ != self.chosen:
            self.chosen = id_
            self._show_sheet()

    def _show_sheet(self) -> None:
        sort, writes = self.sort, not self.counter.read_only and self.counter.shop is not None
        self.rows.mark(self.chosen)
        for widget in (*self.fields.values(), self.temper, self.use, self.new):
            widget.setEnabled(writes)
        self.taking.show_now(writes)
        if sort is None:
            return
        for key, field in self.fields.items():
            value = getattr(sort, key)
            text = format_length(value, self.bench.job.units) if key == "thickness" else str(value)
            if not (field.hasFocus() and field.isModified()):
                field.setText(text)
        self.temper.setCurrentText(sort.temper)
        self.use.setCurrentText(sort.use)

    # A hide that is marked up

    def mark_up(self, id_: str) -> None:
        """One hide, large, to be marked up by hand."""
        shop = self.counter.shop
        skin = next((skin for skin in shop.skins if skin.id == id_), None) if shop is not None else None
        if skin is None:
            return
        self._choose(skin.sort)
        self._all.hide()
        self.marking.open(id_)

    def _back_to(self, id_: str) -> None:
        """Back to all hides, and among them to one."""
        self._all.show()
        cards = [card for card in self.rows.findChildren(Card) if card.property("skin") == id_]
        (cards[0] if cards else self).setFocus()

    # What a hand does

    def _put(self, said: str, was: Any, make: Callable[[], Any]) -> None:
        """Change one thing, if it can be so."""
        try:
            now = make()
        except InputError as error:
            self.refused.emit(str(error))
            self._came()
            return
        if now != was:
            self.counter.put(said, (was, now))

    def _change(self, key: str, text: str) -> None:
        if (sort := self.sort) is not None:
            self._put(f"leather {sort.name}", sort, lambda: replace(sort, **cast(Any, {key: self._value(key, text)})))

    def _value(self, key: str, text: str) -> object:
        """What was typed for a field of a leather. Raises InputError."""
        if key == "thickness":
            return parse_length(text, self.bench.job.units.bare, "thickness")
        if key == "price":
            return typed_number(text, "price") if text.strip() else 0.0
        return Use(text) if key == "use" else text.strip()

    def _typed(self, key: str) -> None:
        field = self.fields[key]
        if field.isModified() and self.sort is not None:
            field.setModified(False)
            self._change(key, field.text())

    def _counted(self, article: Article, key: str, text: str) -> None:
        said = f"{article.name}, {key}"
        self._put(said, article, lambda: replace(article, **cast(Any, {key: typed_number(text, said)})))

    def begin(self) -> None:
        """A new leather, as the sheet says."""
        id_ = uuid.uuid4().hex[:12]

        def make() -> Sort:
            typed: dict[str, Any] = {key: self._value(key, field.text()) for key, field in self.fields.items()}
            return Sort(id_, temper=self.temper.currentText(), use=Use(self.use.currentText()), **typed)

        for field in self.fields.values():
            field.setModified(False)
        self.chosen = id_
        self._put("a new leather", None, make)

    def _add(self, kind: str, text: str) -> None:
        """Something new on the shelves: its name, and its size after a comma."""
        name, _, size = text.partition(",")

        def make() -> Article:
            thick = parse_length(size, self.bench.job.units.bare, "size") if size.strip() else 0.0
            return Article(uuid.uuid4().hex[:12], Kind(kind), name.strip(), thick)

        self._put(incoming.name_from(f"new on the shelves: {name}"), None, make)

    def _take_in(self, sort: Sort, hide: Hide | Photographed) -> None:
        """Put a hide that was read into the book; one that was photographed is looked at."""
        id_, said = uuid.uuid4().hex[:12], ""
        if isinstance(hide, Photographed):
            area = hide.hide.whole.area / 1e6
            said = f"{hide.hide.id}: {area:.3f} m² ± {hide.sure * area:.3f}. Look at its outline, and mark its scars."
            self.marking.keep(id_, hide)
            hide = hide.hide
        self.counter.put(f"{hide.id} taken in", (None, Skin(id_, sort.id, hide)), done=said)
        self._opening = id_ if said else ""

    def _turn_to_tape(self, taped: bool) -> None:
        """A photo is there to be taped, in place of all hides; or they are back."""
        if taped and self.marking.id:
            self.marking.be_done()
        self._all.setVisible(not taped and not self.marking.id)
        if not taped:
            self.setFocus()

    def _use_up(self, id_: str) -> None:
        shop = self.counter.shop
        if shop is not None and not self.counter.read_only:
            skin = next(skin for skin in shop.skins if skin.id == id_)
            self.counter.put(f"{skin.hide.id} used up", (skin, replace(skin, used=True)))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        hand = self.focusWidget()
        if event.key() == Qt.Key.Key_Escape:
            if not self.taking.taping.isHidden():
                self.taking.leave_tape()
            else:
                (self.marking.be_done if self.marking.id else self.left.emit)()
        elif event.key() in ARROWS:
            self.rows.go(hand, *ARROWS[Qt.Key(event.key())])
        elif event.key() == Qt.Key.Key_Delete and isinstance(hand, Card):
            self._use_up(str(hand.property("skin")))
        else:
            super().keyPressEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._sheet.setFixedWidth(min(max(round(0.36 * self.width()), 340), 460))

    def finish(self) -> None:
        self.taking.reading.finish()


def _between(hide: Hide, units: System) -> str:
    """How thin and how thick a hide was found."""
    if not (read := [one.thick for one in hide.gauged]):
        return ""
    thin, thick = (format_length(each, units) for each in (min(read), max(read)))
    return f" · {thin}" + (f" to {thick}" if thick != thin else "")


def _drawn(hide: Hide) -> Callable[[QPainter, QRectF], None]:
    """How a hide is drawn: its outline and its marks."""
    fine = float(np.ptp(hide.ring, axis=0).max()) / SHOWN
    rings = [shapely.get_coordinates(shapely.simplify(shapely.Polygon(r), fine)) for r in (hide.ring, *hide.forbidden)]

    def draw(painter: QPainter, box: QRectF) -> None:
        low, size = rings[0].min(axis=0), np.maximum(np.ptp(rings[0], axis=0), 1.0)
        scale = min(box.width() / size[0], box.height() / size[1])

        def polygon(points: Array) -> QPolygonF:
            px = (points - low - size / 2) * scale * [1.0, -1.0] + [box.center().x(), box.center().y()]
            return QPolygonF([QPointF(float(x), float(y)) for x, y in px])

        painter.setPen(QPen(QColor(GALL), 1.2))
        painter.setBrush(QColor(theme.LEATHER))
        painter.drawPolygon(polygon(rings[0]))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(MADDER))
        for ring in rings[1:]:
            painter.drawPolygon(polygon(ring))

    return draw
