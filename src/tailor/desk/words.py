"""Words on the screen, taken as they are: a name that looks like markup is shown letter by letter."""

from __future__ import annotations

from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QLabel, QWidget


class Words(QLabel):
    """A label whose text, and whose tip, is plain."""

    def __init__(self, said: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setText(said)

    def setToolTip(self, said: str | None) -> None:
        super().setToolTip(escape(said) if said and Qt.mightBeRichText(said) else said)
