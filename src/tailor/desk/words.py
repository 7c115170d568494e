"""Words on the screen, taken as they are: a name that looks like markup is shown letter by letter."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label whose text, and whose tip, is plain."""

    def __init__(self, said: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(said)

    def setToolTip(self, said: str | None) -> None:
        rich = bool(said) and Qt.mightBeRichText(said)  # type: ignore[attr-defined]
        super().setToolTip(escape(said) if said and rich else said)


class Listed(Words):
    """Some things said in a row, on lines of a height that stays: as many as are whole, and all of them as its tip."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent=parent)
        self.setWordWrap(True)
        self._parts = list[str]()

    def tell(self, parts: Sequence[str]) -> None:
        """Say these, the first first."""
        self._parts = list(parts)
        self.setToolTip(" · ".join(parts))
        self._fit()

    def setText(self, said: str | None) -> None:
        self._parts = []
        self.setToolTip("")
        super().setText(said)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        room, wrapped = self.contentsRect(), int(Qt.TextFlag.TextWordWrap)
        for n in range(len(self._parts), 0, -1):
            said = " · ".join([*self._parts[:n], *(["…"] if n < len(self._parts) else [])])
            if self.fontMetrics().boundingRect(room, wrapped, said).height() <= room.height() or n == 1:
                super().setText(said)
                break
