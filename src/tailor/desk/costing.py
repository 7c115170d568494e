"""What the job in hand costs, as it is drafted: one sum in the masthead, and how much the last change made it."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PyQt6.QtWidgets import QWidget

from tailor.core.shop.made import Made
from tailor.core.shop.quote import Quote, quote
from tailor.desk import theme
from tailor.desk.counter import Counter
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

SHOWN = 8  # lines of a quote that its tip shows


class Costing(Words):
    """The sum, and as its tip what it is made of. There is none before the shop book is open.

    takes: what a layout takes of each leather, as quote has it.
    """

    def __init__(
        self, bench: Workbench, counter: Counter, takes: Callable[[], Mapping[str, float]] = dict,
        parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__("", parent)
        self.setFont(theme.text(10.5, True))
        self.setAccessibleName("What it costs")
        self._bench, self._counter, self._takes = bench, counter, takes
        self._before: tuple[str, float] | None = None  # the construction, and what it cost before the last change
        self._last: tuple[object, float] | None = None  # the job that was costed last, and its sum
        bench.drafted.connect(self.refresh)
        bench.staled.connect(lambda: self.setEnabled(False))
        bench.laid.connect(self._forget)
        counter.came.connect(self.refresh)

    def _forget(self) -> None:
        self._before = self._last = None

    def refresh(self) -> None:
        """Reckon the present draft."""
        shop, outcome, job = self._counter.shop, self._bench.outcome, self._bench.made_for
        if shop is None or outcome.made is None or outcome.rough:
            return
        thing = Made(outcome.made, job.name, job.settings.word("leather.temper"))
        found = quote([thing], shop.sorts, shop.stock, shop.terms, shop.rates, self._takes())
        if self._last is not None and self._last[0] != job:
            self._before = job.style, self._last[1]
        self._last = job, found.total
        changed = found.total - self._before[1] if self._before and self._before[0] == job.style else 0.0
        by = f"  ({changed:+.2f})" if abs(changed) >= 0.01 else ""
        self.setText(shop.terms.said(found.total) + by)
        self.setToolTip(_told(found))
        self.setEnabled(True)


def _told(found: Quote) -> str:
    """The largest lines of a quote, and what has no price."""
    items = sorted(found.items, key=lambda item: -item.sum)[:SHOWN]
    lines = [f"{item.sum:.2f}  {item.what}, {item.amounting}" for item in items]
    if found.unpriced:
        lines.append(f"without a price: {', '.join(item.what for item in found.unpriced)}")
    return "\n".join([*lines, f"with a margin of {found.margin:.0%}"])
