"""The orders: what is to be made, for whom and by when, each by the pictures of its things; and what it comes to."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QKeyEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QHBoxLayout,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from tailor.core import incoming
from tailor.core.draft import styles
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.shop.orders import Order, State, begun, day, from_now
from tailor.core.shop.reckoning import Reckon, Reckoned
from tailor.core.shop.shop import Shop
from tailor.core.shop.stock import Article, Want, used_up
from tailor.desk import theme
from tailor.desk.capture.labour import Labour
from tailor.desk.cards import ARROWS, Card, Thing
from tailor.desk.counter import Counter
from tailor.desk.order_sheet import DAYS, SHARES, TERMS, OrderSheet
from tailor.desk.portraits import Portraits
from tailor.desk.proposing import ProposingRoom
from tailor.desk.rows import Row, Rows
from tailor.desk.stock_list import typed_number
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

RECKONER = "tailor.core.shop.reckoner"  # drafting takes long, so in its own process
EMPTY = "There is no order yet. N begins one with the job in hand."
TAKEN = "It is ready; what it needed is taken off the shelves. Ctrl+Z takes both back."
UNTAKEN = "It is ready. What it needed is not reckoned: count the shelves by hand."
HINT = (
    "Arrows go along, Enter takes a job to the bench, R orders it as it is there now, + and − change how many, Delete "
    "takes it out. N new order, A add the job in hand, S one step further, W quote, H order sheet. Esc goes back."
)
LETTERS = 8  # of a currency
MOST, DONE = 60, 12  # orders that are shown: to be made, and done with


class Orders(QWidget):
    """Orders at the left, what is due first, first; at the right the sheet of the one in hand.

    taken: a job is wanted on the bench. left: back to the bench. refused: what was typed cannot be, and why. told: what
    was done.
    """

    taken = pyqtSignal(object)
    left = pyqtSignal()
    refused = pyqtSignal(str)
    told = pyqtSignal(str)

    def __init__(
        self, bench: Workbench, counter: Counter, portraits: Portraits, parent: QWidget | None = None
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.portraits = portraits
        portraits.came.connect(self._redraw)
        self.setObjectName("orders")
        self.setAccessibleName("Orders")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench, self.counter = bench, counter
        self.room = ProposingRoom(self, RECKONER)
        self.room.found.connect(self._take)
        self.writing = Labour(self)
        self.writing.failed.connect(self.refused)
        self.writing.done.connect(lambda path: self.told.emit(f"Written: {path.name} in {path.parent.name}."))
        self.today: Callable[[], date] = date.today
        self.chosen = ""  # the id of the order in hand
        self.reckoned: dict[str, Reckoned] = {}
        self._for: dict[str, Order] = {}  # the orders as they were reckoned
        self._asked: Shop | None = None  # that is being reckoned
        self._put_together()
        counter.came.connect(self._came)

    def _put_together(self) -> None:
        self._title = Words("Orders")
        self._title.setFont(theme.heading(22))
        self._said = Words("")
        self._said.setWordWrap(True)
        self.rows = Rows()
        hint = Words(HINT)
        hint.setWordWrap(True)
        for words in (self._title, self._said, hint):
            words.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        lying = QVBoxLayout()
        lying.addWidget(self._title)
        lying.addWidget(self._said)
        lying.addWidget(self.rows, 1)
        lying.addWidget(hint)
        self.sheet = OrderSheet()
        self.sheet.typed.connect(self._typed)
        self.sheet.turned.connect(lambda state: self._change(lambda order: replace(order, state=state)))
        self.sheet.reckoned_by.connect(self._reckon_by)
        self.sheet.begun.connect(self.begin)
        self.sheet.added.connect(self.add_in_hand)
        self.sheet.quoted.connect(self.ask_quote)
        self.sheet.handed.connect(self.ask_sheet)
        both = QHBoxLayout(self)
        both.setContentsMargins(26, 16, 20, 14)
        both.setSpacing(18)
        both.addLayout(lying, 1)
        both.addWidget(self.sheet)

    # What is shown

    def _tell(self, said: str) -> None:
        self._said.setText(said)
        self._said.setVisible(bool(said))

    def show_now(self) -> None:
        """They are turned to."""
        self._tell("Opening the shop book …" if self.counter.shop is None else "")
        self.counter.open()
        if self.counter.shop is not None:
            self._came()
        self.setFocus()

    def to_buy(self) -> tuple[Want, ...]:
        """What is missing for all orders, as far as it is reckoned."""
        return self.reckoned[""].wants if "" in self.reckoned else ()

    @property
    def order(self) -> Order | None:
        """The order in hand."""
        shop = self.counter.shop
        return None if shop is None else next((o for o in shop.orders if o.id == self.chosen), None)

    def _came(self) -> None:
        if self.isVisible() and self.counter.shop is not None:
            before, self._asked = self._asked, self.counter.shop
            if before is None or _reckoning(before) != _reckoning(self._asked):
                self._for.clear()  # nothing is reckoned so any more
            self._fill()
            self.room.ask(Reckon(self._asked, self.bench.job.settings.maker))

    def _take(self, found: Reckoned) -> None:
        self.reckoned[found.order] = found
        if self._asked is not None and found.order:
            self._for[found.order] = self._asked.order(found.order)
        if found.said:
            self.refused.emit(found.said)
        self._say()
        self._show_sheet()

    def _say(self) -> None:
        """What each order costs, and what is to be bought for all of them."""
        shop = self.counter.shop
        assert shop is not None
        orders = {order.id: order for order in shop.orders}
        for row in self.rows.rows:
            order = orders[row.id]
            cost = self._cost(order)
            due = from_now(order.due, self.today()) if order.due and order.open else ""
            total = shop.terms.said(cost.quote.total) if cost and cost.quote else ""
            row.say(" · ".join(filter(None, (order.name, order.state, due, total))))
        buy = ", ".join(f"{want.missing.amounting} of {want.need.said}" for want in self.to_buy())
        hidden = len(shop.orders) - len(self.rows.rows)
        more = f"{hidden} more are in the shop book." if hidden else ""
        self._tell(
            EMPTY if not shop.orders else " ".join((f"To buy for all of them: {buy}." if buy else "", more)).strip()
        )

    def _fill(self) -> None:
        """Every order anew; the hand stays where it was."""
        shop = self.counter.shop
        assert shop is not None
        orders = _at_hand(shop.orders)
        if self.order is not None and all(order.id != self.chosen for order in orders):
            orders.append(self.order)  # what is in hand is seen, however many there are
        if self.order is None:
            self.chosen = orders[0].id if orders else ""
        rows = []
        for order in orders:
            row = Row(order.id, order.name)
            row.chosen.connect(lambda i=order.id: self._choose(i))
            things = [(f"{line.count} × {line.job.name}" if line.count > 1 else line.job.name, line.job)
                      for line in order.lines]  # fmt: skip
            row.put(*(self._card(row, name, job, order.id) for name, job in things))
            rows.append(row)
        self.rows.show_rows(rows)
        self._say()
        self._show_sheet()

    def _card(self, row: Row, name: str, job: Job, id_: str) -> Card:
        said = styles.style(job.style).said.lower()
        card = Card(Thing(name, said, self.portraits.drawn(job), lambda: self.taken.emit(job)), row)
        card.reached.connect(lambda: self._choose(id_))
        return card

    def _choose(self, id_: str) -> None:
        if id_ != self.chosen:
            self.chosen = id_
            self._show_sheet()

    def _show_sheet(self) -> None:
        order, shop = self.order, self.counter.shop
        self.rows.mark(self.chosen)
        cost = None if order is None else self._cost(order)
        self.sheet.show_order(order, shop.terms if shop else None, cost, not self.counter.read_only)

    def _cost(self, order: Order) -> Reckoned | None:
        """What an order comes to, if it is reckoned as it is now."""
        return self.reckoned.get(order.id) if self._for.get(order.id) == order else None

    # What a hand does

    def _change(self, change: Callable[[Order], Order], said: str = "") -> None:
        """Change the order in hand."""
        if (was := self.order) is None:
            return
        try:
            now = change(was)
        except InputError as error:
            self.refused.emit(str(error))
            self._show_sheet()
            return
        if now == was:
            return
        used: tuple[tuple[Article, Article], ...] = ()
        done = ""
        if was.open and now.state is State.READY:
            cost = self._cost(was)
            used = used_up(cost.wants) if cost else ()
            done = TAKEN if cost else UNTAKEN
        self.counter.put(said or f"order {now.name}", (was, now), *used, done=done)

    def _typed(self, key: str, text: str) -> None:
        def typed(order: Order) -> Order:
            if key in DAYS:
                changed: dict[str, Any] = {key: day(text, self.today())}
            else:
                changed = {key: incoming.named(text, key) if text or key == "name" else ""}
            return replace(order, **changed)

        self._change(typed)

    def _reckon_by(self, key: str, text: str) -> None:
        """A term of the shop was typed: a sum, a share in per cent, or a sign."""
        if (shop := self.counter.shop) is None:
            return
        try:
            changed: dict[str, Any] = {key: text[:LETTERS]}
            if key != "currency":
                changed[key] = typed_number(text.removesuffix("%"), TERMS[key][1]) / (100 if key in SHARES else 1)
            terms = replace(shop.terms, **changed)
        except InputError as error:
            self.refused.emit(str(error))
            self._show_sheet()
            return
        if terms != shop.terms:
            self.counter.put(f"reckoning, {TERMS[key][0]}", (shop.terms, terms))

    def begin(self) -> None:
        """A new order, with the job in hand."""
        shop = self.counter.shop
        if shop is None or self.counter.read_only:
            return
        order = begun(uuid.uuid4().hex[:12], self.bench.job, shop.orders)
        self.chosen = order.id
        self.counter.put(f"new order {order.name}", (None, order))
        self.sheet.fields["name"].setFocus()
        self.sheet.fields["name"].selectAll()

    def add_in_hand(self) -> None:
        """The job in hand, as it is now, once more in the order."""
        self._change(lambda order: order.with_job(self.bench.job), f"{self.bench.job.name} ordered")

    def ask_quote(self) -> None:
        if self.order is None or (found := self._cost(self.order)) is None or found.quote is None:
            return
        name = f"{incoming.file_name(self.order.name)}.pdf"
        path, _ = QFileDialog.getSaveFileName(self, "Write the quote", name, "Quotes (*.pdf *.csv *.json)")
        if path:
            self.write_quote(Path(path))

    def write_quote(self, path: Path) -> None:
        """Write the quote of the order in hand, off the window's thread."""
        from tailor.files import quote_sheet

        order, shop = self.order, self.counter.shop
        found = None if order is None else self._cost(order)
        if order is None or shop is None or found is None or found.quote is None:
            return
        quote, terms = found.quote, shop.terms
        things = tuple((line.count, line.job.name) for line in order.lines)
        path = path if path.suffix else path.with_suffix(".pdf")

        def write(tell: object) -> Path:
            quote_sheet.write(quote, order.name, things, terms, path)
            return path

        self.writing.start(write)

    def ask_sheet(self) -> None:
        if self.order is None or not self.order.lines:
            return
        name = f"{incoming.file_name(self.order.name)}, order.pdf"
        path, _ = QFileDialog.getSaveFileName(self, "Write the order sheet", name, "Sheets (*.pdf)")
        if path:
            self.write_sheet(Path(path))

    def write_sheet(self, path: Path) -> None:
        """Write the sheet of the order in hand, off the window's thread."""
        from tailor.files import order_sheet

        order, shop = self.order, self.counter.shop
        if order is None or shop is None:
            return
        path = path if path.suffix else path.with_suffix(".pdf")

        def write(tell: object) -> Path:
            order_sheet.write(order, shop, path, maker=self.bench.maker)
            return path

        self.writing.start(write)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, hand = event.key(), self.rows.hand
        if key == Qt.Key.Key_Escape:
            self.left.emit()
        elif key in ARROWS:
            self.rows.go(self.focusWidget(), *ARROWS[Qt.Key(key)])
        elif key == Qt.Key.Key_N:
            self.begin()
        elif key == Qt.Key.Key_A:
            self.add_in_hand()
        elif key == Qt.Key.Key_S:
            self._change(lambda order: order.onward)
        elif key == Qt.Key.Key_H:
            self.ask_sheet()
        elif key == Qt.Key.Key_W:
            self.ask_quote()
        elif hand is not None and key == Qt.Key.Key_R:
            self._change(
                lambda order: order.with_newer(hand[1], self.bench.job), f"newer {self.bench.job.name} ordered"
            )
        elif hand is not None and key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus, Qt.Key.Key_Delete):
            self._count(hand[1], {Qt.Key.Key_Minus: -1, Qt.Key.Key_Delete: -10_000}.get(Qt.Key(key), 1))
        else:
            super().keyPressEvent(event)

    def _count(self, nth: int, by: int) -> None:
        def change(order: Order) -> Order:
            line = order.lines[nth]
            return order.with_count(line.job, max(line.count + by, 0) if by < -1 else max(line.count + by, 1))

        self._change(change)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.sheet.setFixedWidth(min(max(round(0.36 * self.width()), 340), 460))

    def _redraw(self) -> None:
        for card in self.rows.findChildren(Card):
            card.update()

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.room.stop()
        self.portraits.leave()

    def finish(self) -> None:
        """The window closes: leave no process and no thread running."""
        self.writing.finish()
        self.room.close()


def _at_hand(orders: Sequence[Order]) -> list[Order]:
    """What is to be made, what is due first, first; and the last of what is done with."""
    open_ = sorted((o for o in orders if o.open), key=lambda o: (o.due or date.max, o.name))
    done = sorted((o for o in orders if not o.open), key=lambda o: (o.due or date.min, o.name), reverse=True)
    return [*open_[:MOST], *done[:DONE]]


def _reckoning(shop: Shop) -> tuple[object, ...]:
    """What the cost of an order depends on, besides the order."""
    return shop.sorts, shop.stock, shop.terms, shop.rates
