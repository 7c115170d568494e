"""Ways out: what would ease the leather where it will not go, each with the number it would give."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from tailor.core.advice import WayOut, ways_out
from tailor.desk import theme
from tailor.desk.capture.labour import Labour
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

NO_DRAFT = "There is no draft to ease; what stops it stands in the ledger."


class WaysOut(QWidget):
    """A slip over the board that lists them. taken: a way was taken."""

    taken = pyqtSignal(str)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ways out")
        self.setAccessibleName("Ways out")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setStyleSheet(f"WaysOut {{ background: {theme.PAPER}; border: 1px solid {theme.EDGE}; }}")
        self.bench = bench
        self.found: tuple[WayOut, ...] = ()
        self.labour = Labour(self)
        self._head = Words()
        self._head.setFont(theme.heading(11.5))
        self._close = QPushButton("Close")
        self._close.clicked.connect(self.leave)
        top = QHBoxLayout()
        top.addWidget(self._head, 1)
        top.addWidget(self._close)
        self._list = QVBoxLayout()
        self._list.setSpacing(2)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(12, 6, 12, 8)
        all_.addLayout(top)
        all_.addLayout(self._list)
        self.labour.progress.connect(lambda said, share: self._head.setText(f"Trying: {said.lower()} …"))
        self.labour.done.connect(self._show)
        self.labour.failed.connect(lambda error: self._head.setText(str(error)))
        self._awaited = False
        bench.changed.connect(self.leave)
        bench.drafted.connect(self._drafted)
        self.hide()

    def ask(self) -> None:
        """Work the ways out for the job as it stands; what is shown is dropped as soon as the job changes.

        Where its draft is not there yet, they are worked out when it is.
        """
        self._clear()
        made = self.bench.outcome.made
        if not self.bench.fresh or made is None:
            self._awaited = not self.bench.fresh
            self._head.setText("Ways out are tried when the draft is there …" if self._awaited else NO_DRAFT)
            self.show()
            return
        self._awaited = False
        if made.shell is None:
            self.show()
            self._head.setText("Its pieces lie flat or are bent one way only: there is nothing to ease.")
            return
        self.show()
        self._head.setText("Trying what would ease it …")
        job = self.bench.job
        self.labour.start(lambda tell: ways_out(job, made, tell))

    def leave(self) -> None:
        """Stop, and put the slip away."""
        self._awaited = False
        self.labour.stop()
        self._clear()
        self.hide()

    def _drafted(self) -> None:
        if self._awaited and self.bench.fresh:
            self.ask()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        else:
            super().keyPressEvent(event)

    def finish(self) -> None:
        """The window closes: leave no thread running."""
        self.labour.finish()

    def _clear(self) -> None:
        self.found = ()
        while (item := self._list.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.setParent(None)
                widget.deleteLater()

    def _show(self, found: tuple[WayOut, ...]) -> None:
        self._clear()
        self.found = found
        now = found[0]
        self._head.setText(f"Ways out · as it stands it {_told(now)}")
        for way in found[1:]:
            line = QPushButton(f"{way.said}: {_told(way)}")
            line.setEnabled(way.job is not None)
            line.setStyleSheet("text-align: left")
            line.clicked.connect(lambda _, w=way: self._take(w))
            self._list.addWidget(line)
        first = next((self._list.itemAt(k).widget() for k, w in enumerate(found[1:]) if w.job is not None), None)
        if first is not None:
            first.setFocus()

    def _take(self, way: WayOut) -> None:
        if way.job is not None:
            self.bench.change(way.said.lower(), way.job)
            self.taken.emit(way.said)


def _told(way: WayOut) -> str:
    return (
        f"gives {100 * way.stretch:.0f} % of the {100 * way.stretch_limit:.0f} it bears, "
        f"takes up {100 * way.gather:.0f} % of {100 * way.gather_limit:.0f}"
    )
