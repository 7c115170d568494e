"""Lines: the verdicts of the ledger, one to a line, alike ones folded into one."""

from __future__ import annotations

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QColor, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PyQt6.QtWidgets import QWidget

from tailor.core.checks.verdict import Ruling, Verdict
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.drawing import ruling_mark
from tailor.desk.stages import STAGES
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT

NARROW = 340  # px below which only the numbers are told
LEAST = 8.5  # pt that the name of a verdict may be written in to be whole
LINE = 21
FOLDS = 34  # px at the left of a line, where a click opens and folds it
MOMENT = 3000  # ms that what changed is marked


def said(value: float, unit: str, units: System) -> str:
    """A judged number in the maker's unit."""
    if unit == "mm":
        return format_length(value, units)
    return f"{value:.1f}°" if unit == "°" else f"{value:.3g} {unit}".replace(" count", "")


def limit(verdict: Verdict, units: System) -> str:
    return f"{'most' if verdict.ceiling else 'least'} {said(verdict.limit, verdict.unit, units)}"


@dataclass(frozen=True)
class Row:
    """A line on show: a verdict, and those that are alike and folded under it, itself among them. within: it is one of
    those that were opened.
    """

    verdict: Verdict
    folded: tuple[Verdict, ...] = ()
    within: bool = False

    @property
    def key(self) -> tuple[str, Ruling]:
        """What it has in common with those that are folded with it."""
        return self.verdict.alike, self.verdict.ruling

    @property
    def said(self) -> str:
        """What is written on it."""
        if self.folded:
            return f"{self.verdict.alike} · {len(self.folded)} places"
        return self.verdict.name.split(", ", 1)[-1] if self.within else self.verdict.name


class Lines(QWidget):
    """The verdicts, one to a line; those of the stage in hand, and every one that does not hold.

    Alike verdicts of one ruling are folded into one line, the nearest to its limit told; right and left open and fold
    it. changed: names of those that the last change made another, marked for a moment.
    """

    chosen = pyqtSignal(object)
    show_me = pyqtSignal(object)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ledger lines")
        self.setAccessibleName("Ledger")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.bench = bench
        self.stage = STAGES["Draft"]
        self.at = 0
        self._first = 0
        self._opened = set[tuple[str, Ruling]]()
        self.changed = frozenset[str]()
        self._told: tuple[str, dict[str, str]] = ("", {})
        self._moment = QTimer(self, interval=MOMENT, singleShot=True, timeout=self._forget)

    @property
    def rows(self) -> list[Row]:
        """The lines on show, gravest first."""
        mine = [v for v in self.bench.outcome.said if v.ruling is not Ruling.OK or v.theme in self.stage.themes]
        alike: dict[tuple[str, Ruling], list[Verdict]] = {}
        for verdict in mine:
            alike.setdefault((verdict.alike, verdict.ruling), []).append(verdict)
        rows: list[Row] = []
        for key, group in alike.items():
            if len(group) == 1:
                rows.append(Row(group[0]))
                continue
            worst = min(group, key=lambda v: v.spare)
            rows.append(Row(worst, tuple(group)))
            if key in self._opened:
                rows += [Row(verdict, within=True) for verdict in group]
        return rows

    @property
    def shown(self) -> list[Verdict]:
        """The verdict of each line on show."""
        return [row.verdict for row in self.rows]

    @property
    def hidden(self) -> int:
        """How many verdicts hold and belong to other stages."""
        said = self.bench.outcome.said
        return sum(v.ruling is Ruling.OK and v.theme not in self.stage.themes for v in said)

    def note_changes(self) -> None:
        """Mark for a moment what is another than it was in this job's draft before."""
        if not self.bench.fresh:
            return
        outcome = self.bench.outcome
        now = {v.name: f"{v.ruling} {said(v.value, v.unit, self.bench.job.units)}" for v in outcome.said}
        name, before = self._told
        if name == outcome.job.name and before and now and now != before:
            self.changed = frozenset(key for key, told_ in now.items() if before.get(key) != told_)
            self._moment.start()
        self._told = outcome.job.name, now

    def _forget(self) -> None:
        self.changed = frozenset()
        self.update()

    def open(self, wanted: bool) -> None:
        """Open the line in hand, where others are folded under it, or fold it again."""
        rows = self.rows
        if not 0 <= self.at < len(rows):
            return
        key = rows[self.at].key
        at = next((k for k, row in enumerate(rows) if row.folded and row.key == key), None)
        if at is not None:
            (self._opened.add if wanted else self._opened.discard)(key)
            self.choose(at)

    @property
    def verdict(self) -> Verdict | None:
        return self.shown[self.at] if 0 <= self.at < len(self.shown) else None

    def choose(self, at: int) -> None:
        self.at = max(0, min(at, len(self.shown) - 1))
        fits = max(self.height() // LINE, 1)
        self._first = min(max(self._first, self.at - fits + 1), self.at)
        self.setAccessibleDescription(self.verdict.name if self.verdict else "")
        self.update()
        self.chosen.emit(self.verdict)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        units = self.bench.job.units
        narrow = self.width() < NARROW
        limits = [QFontMetricsF(theme.text(10)).horizontalAdvance(limit(v, units)) for v in self.shown]
        ends = 10 if narrow else round(max(limits, default=0.0)) + 22
        for k, row in enumerate(self.rows[self._first :]):
            verdict, top = row.verdict, k * LINE
            if top + LINE > self.height():
                break
            box = QRectF(0, top, self.width(), LINE)
            if self._first + k == self.at:
                painter.setPen(QPen(QColor(WALNUT if self.hasFocus() else theme.EDGE), 1.4))
                painter.setBrush(QColor(theme.CARD))
                painter.drawRoundedRect(box.adjusted(2, 1, -2, -1), 3, 3)
            if self.changed & {v.name for v in row.folded or (verdict,)}:
                painter.fillRect(QRectF(3, top + 3, 3, LINE - 6), QColor(LOGWOOD))
            indent = 16 if row.within else 0
            ruling_mark(painter, QRectF(8 + indent, top + 4, 13, 13), verdict.ruling)
            if row.folded:
                mark = "▾" if row.key in self._opened else "▸"
                painter.drawText(QRectF(23, top, 10, LINE), Qt.AlignmentFlag.AlignVCenter, mark)
                indent = 10
            painter.setPen(QColor(INK if self.bench.fresh else GALL))
            painter.setFont(theme.text(10.5, bold=verdict.ruling is not Ruling.OK))
            number = said(verdict.value, verdict.unit, units)
            room = int(box.width()) - 28 - indent - ends - painter.fontMetrics().horizontalAdvance(number) - 8
            size = 10.5
            while size > LEAST and painter.fontMetrics().horizontalAdvance(row.said) > room:
                size -= 0.5
                painter.setFont(theme.text(size, bold=verdict.ruling is not Ruling.OK))
            name = painter.fontMetrics().elidedText(row.said, Qt.TextElideMode.ElideRight, room)
            painter.drawText(box.adjusted(28 + indent, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
            painter.setFont(theme.text(10))
            side = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(box.adjusted(0, 0, -ends, 0), side, number)
            if not narrow:  # there the limit is told with the reason
                painter.setPen(QColor(GALL))
                painter.drawText(box.adjusted(0, 0, -10, 0), side, limit(verdict, units))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self.setFocus()
        k = self._first + int(event.position().y() // LINE)
        rows = self.rows
        if k < len(rows):
            self.choose(k)
            if rows[k].folded and event.position().x() < FOLDS:
                self.open(rows[k].key not in self._opened)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if self.verdict is not None:
            self.show_me.emit(self.verdict)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.choose(self.at + (-1 if event.angleDelta().y() > 0 else 1))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.choose(self.at + (1 if event.key() == Qt.Key.Key_Down else -1))
        elif event.key() in (Qt.Key.Key_Right, Qt.Key.Key_Left):
            self.open(event.key() == Qt.Key.Key_Right)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.verdict is not None:
            self.show_me.emit(self.verdict)
        else:
            super().keyPressEvent(event)
