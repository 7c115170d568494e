"""The guide, read inside the window: its headings down the left, and the text at the one that was asked for."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QTextBlock
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from tailor.desk import theme
from tailor.files.dyes import INK, WALNUT

TEXT = Path(__file__).with_suffix(".md")
BEGINNING = "What lies on the bench"


class Guide(QWidget):
    """left: back to where one was."""

    left = pyqtSignal()

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("guide")
        self.setAccessibleName("The maker's guide")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.headings = QListWidget()
        self.headings.setAccessibleName("Headings")
        self.headings.setFont(theme.text(10.5))
        self.headings.setFixedWidth(230)
        self.headings.setStyleSheet(
            f"QListWidget {{ background: {theme.CARD}; border: 1px solid {theme.EDGE}; padding: 4px; outline: none; }}"
            f"QListWidget::item {{ padding: 5px 6px; color: {INK}; }}"
            f"QListWidget::item:selected {{ background: {theme.PAPER}; border: 1px solid {WALNUT}; color: {INK}; }}"
        )
        self.headings.currentTextChanged.connect(self._turn_to)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Guide")
        self.text.setOpenLinks(False)
        self.text.setFont(theme.text(11.5))
        self.text.setStyleSheet(f"QTextBrowser {{ background: {theme.PAPER}; padding: 14px 26px; }}")
        self.text.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        back = QPushButton("Back  (Esc)")
        back.setProperty("plain", "false")
        back.clicked.connect(self.left)
        side = QVBoxLayout()
        side.addWidget(self.headings, 1)
        side.addWidget(back)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 14, 14, 14)
        row.addLayout(side)
        row.addWidget(self.text, 1)

    def open(self, heading: str) -> None:
        """Read from a heading on."""
        if not self.headings.count():
            document = self.text.document()
            assert document is not None
            document.setMarkdown(TEXT.read_text(encoding="utf-8"))
            self.headings.addItems(
                [block.text() for block in self._blocks() if block.blockFormat().headingLevel() == 2]
            )
        found = self.headings.findItems(heading, Qt.MatchFlag.MatchExactly)
        self.headings.setCurrentItem(found[0] if found else self.headings.item(0))
        self._turn_to(heading)
        self.headings.setFocus()

    def _blocks(self) -> list[QTextBlock]:
        document, blocks = self.text.document(), list[QTextBlock]()
        assert document is not None
        block = document.begin()
        while block.isValid():
            blocks.append(block)
            block = block.next()
        return blocks

    def _turn_to(self, heading: str) -> None:
        document, bar = self.text.document(), self.text.verticalScrollBar()
        assert document is not None
        assert bar is not None
        for block in self._blocks():
            if block.blockFormat().headingLevel() and block.text() == heading:
                layout = document.documentLayout()
                assert layout is not None
                bar.setValue(round(layout.blockBoundingRect(block).top()))
                return

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F1):
            self.left.emit()
        else:
            super().keyPressEvent(event)
