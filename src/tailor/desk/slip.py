"""The slip: a piece of paper beside a tag that says why."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect
from PyQt6.QtWidgets import QWidget

from tailor.desk import theme
from tailor.desk.words import Words
from tailor.files.dyes import WALNUT

WIDEST = 340


class Slip(Words):
    """Shown beside a tag, on the side that has room."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent=parent)
        self.setObjectName("slip")
        self.setWordWrap(True)
        self.setStyleSheet(
            f"QLabel#slip {{ background: {theme.PAPER}; border: 1px solid {WALNUT}; border-radius: 5px; "
            "padding: 6px 9px; }"
        )
        self.hide()

    def tell(self, said: str, beside: QRect, within: QRect) -> None:
        """Say something beside a tag, within the board."""
        self.setText(said)
        self.setFixedWidth(min(WIDEST, max(beside.left(), within.width() - beside.right()) - 16))
        self.adjustSize()
        to_right = beside.center().x() < within.width() / 2
        left = beside.right() + 8 if to_right else beside.left() - self.width() - 8
        top = min(max(beside.top(), 8), within.height() - self.height() - 8)
        self.move(QPoint(left, max(top, 4)))
        self.raise_()
        self.show()
