"""The guide, read inside the window: its headings down the left, and the text at the one that was asked for."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import Qt, QUrl, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QTextBlock, QTextDocument
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QPushButton, QTextBrowser, QVBoxLayout, QWidget

from tailor.core.notes.notes import NOTES
from tailor.desk import theme
from tailor.desk.noted import pictured, written
from tailor.files.dyes import INK, WALNUT

TEXT = Path(__file__).with_suffix(".md")
_PICTURE = QTextDocument.ResourceType.ImageResource.value
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
        self.headings.setFixedWidth(250)
        self.headings.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.headings.setStyleSheet(
            f"QListWidget {{ background: {theme.CARD}; border: 1px solid {theme.EDGE}; padding: 4px; outline: none; }}"
            f"QListWidget::item {{ padding: 5px 6px; color: {INK}; }}"
            f"QListWidget::item:selected {{ background: {theme.PAPER}; border: 1px solid {WALNUT}; color: {INK}; }}"
        )
        self.headings.currentTextChanged.connect(self._turn_to)
        self._text: dict[str, str] = {}  # what stands under each heading, in small letters
        self.text = QTextBrowser()
        self.text.setAccessibleName("Guide")
        self.text.setOpenLinks(False)
        self.text.setFont(theme.text(11.5))
        self.text.setStyleSheet(f"QTextBrowser {{ background: {theme.PAPER}; padding: 14px 26px; }}")
        self.text.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        back = QPushButton("Back  (Esc)")
        back.setProperty("plain", "false")
        back.clicked.connect(self.left)
        self.sought = QLineEdit()
        self.sought.setPlaceholderText("Find in the guide")
        self.sought.setAccessibleName("Find in the guide")
        self.sought.setClearButtonEnabled(True)
        self.sought.textChanged.connect(self._find)
        self.sought.returnPressed.connect(self.headings.setFocus)
        side = QVBoxLayout()
        side.addWidget(self.sought)
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
            document.setMarkdown(TEXT.read_text(encoding="utf-8") + written())
            for n, note in enumerate(NOTES):  # what was there before goes with the text before
                document.addResource(_PICTURE, QUrl(f"note:{n}"), pictured(note))
            titles = {note.title for note in NOTES}
            words = ""
            for block in self._blocks():
                level = block.blockFormat().headingLevel()
                if level == 2 or block.text() in titles:
                    words = block.text()
                    self.headings.addItem(words)
                    self._text[words] = ""
                self._text[words] = f"{self._text.get(words, '')} {block.text()}".lower()
        found = self.headings.findItems(heading, Qt.MatchFlag.MatchExactly)
        self.headings.setCurrentItem(found[0] if found else self.headings.item(0))
        self.sought.clear()
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

    def _find(self, text: str) -> None:
        """Show the headings under which all the words of a text stand."""
        first = None
        for n in range(self.headings.count()):
            item = self.headings.item(n)
            assert item is not None
            there = all(word in self._text[item.text()] for word in text.lower().split())
            item.setHidden(not there)
            first = first or (item if there else None)
        if first is not None and text:
            self.headings.setCurrentItem(first)

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
