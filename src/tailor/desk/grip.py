"""Grip: what the hand holds on the board: the bar, the mouth, the finger it balances on, zones, tools, the card."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QPointF, Qt

from tailor.desk.zoning import NEAR

if TYPE_CHECKING:
    from tailor.desk.board import Board

HANDLE = 70  # px on the right of the board that the bar's handle has
BESIDE, HIGH = 52, 11  # px that the handle is wide beside those, and high to either side of the bar


class Grip:
    """The hand on a board: what it would take hold of, and what it holds."""

    def __init__(self, board: Board) -> None:
        self.board = board
        self.held: str | None = None
        self._from = QPointF()

    def under(self, at: QPointF) -> str | None:
        """What a hand at a place, px, would take hold of; None where it is the card alone."""
        board, made = self.board, self.board.bench.made
        if made is None or board.scene is None:
            return None
        if (zone := board.zoning.under(at)) is not None:
            return zone
        if (tool := board.tools.under(at)) is not None:
            return tool
        bar = abs(board.to_screen(0, board.bar).y() - at.y())
        if at.x() > board.width() - HANDLE - BESIDE and bar < HIGH:
            return "bar"
        if board.stage.hung and not board.laid_flat and "object.balance" in board.scene.places:
            finger = board.to_screen(*board.scene.places["object.balance"]) - at
            if abs(finger.x()) < 2 * NEAR and -NEAR < -finger.y() < 3 * NEAR:
                return "balance"
        if made.mouth is not None and abs(board.to_screen(0, made.mouth).y() - at.y()) < NEAR:
            return "mouth"
        return "bar" if bar < NEAR else None

    def press(self, at: QPointF) -> None:
        """Take hold of what lies there."""
        self._from = self.board.hand = at
        self.held = self.under(at) or "card"
        if self.held.startswith("tool"):
            self.held = self.board.tools.press(self.held, at)

    def move(self, at: QPointF) -> None:
        """Draw what is held along, or show what could be."""
        board, y = self.board, self.board.to_mm(at).y()
        if self.held is None:
            self._show(self.under(at))
        elif self.held == "bar":
            board.move_bar(y)
        elif self.held == "mouth":
            board.tagged.take("mouth.y", f"{y:.1f}mm", "drag the mouth", joins="drag mouth")
        elif self.held == "balance":
            board.tagged.take("object.balance", f"{y:.1f}mm", "balance it on a finger", joins="drag finger")
        elif self.held.startswith("tool"):
            board.tools.drag(self.held, at)
        elif self.held == "gutter" or self.held.startswith("zone"):
            self.held = board.zoning.drag(self.held, board.to_mm(self._from).y(), y)
        else:
            board.push(at - self._from)
            self._from = at

    def let_go(self, at: QPointF | None) -> None:
        """Let go of it."""
        if self.held == "tool move" and at is not None:
            self.board.tools.let_go(at)
        self.held = None

    def _show(self, under: str | None) -> None:
        shapes = {None: Qt.CursorShape.ArrowCursor, "tool size": Qt.CursorShape.SizeFDiagCursor}
        usual = Qt.CursorShape.OpenHandCursor if under and under[:4] == "tool" else Qt.CursorShape.SizeVerCursor
        self.board.setCursor(shapes.get(under, usual))
