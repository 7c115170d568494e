"""Hands on what is tooled: it is moved, sized and turned where it lies, by mouse and by keys."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np
import shapely
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QKeyEvent, QPainter, QPen, QTransform

from tailor.core.carried.loft import Array
from tailor.core.draft.piece import FLIP
from tailor.core.draft.tooled.asked import Picture, Reads
from tailor.core.draft.tooled.came import Field, Tooled
from tailor.core.draft.tooled.picture import turned_by, turning, upward
from tailor.desk import theme
from tailor.desk.drawing import path
from tailor.files.dyes import GALL, WALNUT

if TYPE_CHECKING:
    from tailor.desk.board import Board
    from tailor.desk.tooling import ToolStrip

NEAR = 9  # px within which a handle can be taken hold of
KNOB = 5.0  # px: half a handle
OUT = 20.0  # px that the handle which turns stands off
LEAST, MOST = 3.0, 1000.0  # mm that a picture may be wide
SNAP = 2.5  # degrees within which it is turned to a plain angle
LARGER = 1.02  # times as large, at a press


class ToolHand:
    """What a hand does to what is tooled on the pieces that lie flat. strip: what is on them, and which is in hand."""

    def __init__(self, board: Board, strip: ToolStrip) -> None:
        self.board, self.strip = board, strip
        self._began: tuple[Tooled, Array] | None = None

    @property
    def here(self) -> bool:
        """Whether there is anything to take hold of: the stage shows it, and the pieces lie flat."""
        return self.board.stage.tooled and self.board.laid_flat and self.board.scene is not None

    # Where things lie

    def _on_board(self, piece: str) -> Callable[[Array], Array] | None:
        """From a flat piece, as drawn for the right hand, to the board, mm; None where it does not lie there."""
        scene, made = self.board.scene, self.board.bench.made
        if scene is None or made is None or piece not in scene.shifts:
            return None
        way, shift = FLIP if made.mirrored else np.ones(2), np.array([scene.shifts[piece], scene.lifts[piece]])
        return lambda points: np.asarray(points * way + shift)

    def _frame(self, put: Tooled) -> tuple[Array, Array] | None:
        """The corners of a picture as it reads, lower left first, (4, 2), and its middle, (2,), on the board, mm."""
        on = None if put.field is None else self._on_board(put.field.piece)
        if on is None or not put.lines or not isinstance(put.asked, Picture):
            return None
        every = np.vstack([on(line) for line in put.lines])
        turn = turning(self._up(put)) @ turned_by(put.asked.turn)
        own = every @ turn
        low, high = own.min(axis=0), own.max(axis=0)
        corners = np.array([low, (high[0], low[1]), high, (low[0], high[1])]) @ turn.T
        return corners, corners.mean(axis=0)

    def _up(self, put: Tooled) -> Array:
        """Which way a picture reads upward on the board, before it is turned."""
        made = self.board.bench.made
        assert put.field is not None
        assert made is not None
        up = upward(put.asked, put.field) if isinstance(put.asked, Picture) else np.array(put.field.up)
        return np.asarray(up * (FLIP if made.mirrored else np.ones(2)))

    def piece_under(self, at: QPointF) -> str | None:
        """The piece that lies under a place on the screen."""
        scene, made = self.board.scene, self.board.bench.made
        if not self.here or scene is None or made is None:
            return None
        mm = self.board.to_mm(at)
        for piece in scene.pieces:
            if shapely.Polygon(piece.cut).contains(shapely.Point(mm.x(), mm.y())):
                return piece.name
        return None

    def under(self, at: QPointF) -> str | None:
        """What of it lies under a place on the screen: a handle of what is in hand, or a thing by its number."""
        made = self.board.bench.made
        if not self.here or made is None:
            return None
        mine = self.strip.put
        if mine is not None and (frame := self._frame(mine)) is not None:
            size, turn = self._handles(frame)
            for name, spot in (("turn", turn), ("size", size)):
                if np.hypot(spot.x() - at.x(), spot.y() - at.y()) < NEAR:
                    return f"tool {name}"
        mm = self.board.to_mm(at)
        place = shapely.Point(mm.x(), mm.y())
        hit = [put for put in made.tooled if (area := self._area(put)) is not None and area.contains(place)]
        if not hit:
            return None
        pictures = [put for put in hit if isinstance(put.asked, Picture)]
        return f"tool {(pictures or hit)[-1].number}"

    def _area(self, put: Tooled) -> shapely.Polygon | None:
        if (frame := self._frame(put)) is not None:
            return shapely.Polygon(frame[0])
        on = None if put.field is None else self._on_board(put.field.piece)
        return None if on is None or put.field is None else shapely.Polygon(on(_rim(put.field)))

    def _handles(self, frame: tuple[Array, Array]) -> tuple[QPointF, QPointF]:
        """On the screen: the handle that sizes, at a corner, and the one that turns, beyond its head."""
        corners, middle = frame
        size = self.board.to_screen(*corners[1])
        head = (corners[2] + corners[3]) / 2
        up = (head - middle) / max(float(np.hypot(*(head - middle))), 1e-9)
        turn = self.board.to_screen(*(head + up * OUT / self.board.view.m11()))
        return size, turn

    # By mouse

    def press(self, held: str, at: QPointF) -> str:
        """Take hold of what is under the hand; what is held."""
        what = held.removeprefix("tool ")
        if what.isdigit():
            self.strip.choose(int(what))
            what = "move"
        put = self.strip.put
        mm = self.board.to_mm(at)
        self._began = None if put is None else (put, np.array([mm.x(), mm.y()]))
        return f"tool {what}"

    def drag(self, held: str, at: QPointF) -> None:
        """Move, size or turn what is in hand."""
        asked, began = self.strip.asked, self._began
        if began is None or not isinstance(asked, Picture) or (frame := self._frame(began[0])) is None:
            return
        put, start = began
        spot, middle = np.array([(mm := self.board.to_mm(at)).x(), mm.y()]), frame[1]
        if held == "tool size":
            reach = np.hypot(*(spot - middle)) / max(np.hypot(*(frame[0][1] - middle)), 1e-6)
            wide = float(np.clip(put.width * reach, LEAST, MOST))
            self._change("size", replace(asked, width=round(wide, 1), at=_tenths(put.at)))
        elif held == "tool turn":
            way = turning(self._up(put)).T @ (spot - middle)
            turn = float(np.degrees(np.arctan2(-way[0], way[1])))
            plain = 45.0 * round(turn / 45.0)
            turn = plain if abs(turn - plain) < SNAP else round(turn)
            self._change("turn", replace(asked, turn=turn if turn > -180 else 180.0))
        else:
            way = turning(self._up(put)).T @ (spot - start)
            if self._mirrored:
                way = way * FLIP
            self._change("move", replace(asked, at=_tenths((put.at[0] + way[0], put.at[1] + way[1]))))

    @property
    def _mirrored(self) -> bool:
        made = self.board.bench.made
        return made is not None and made.mirrored

    def let_go(self, at: QPointF) -> None:
        """A picture that is let go over another piece goes on that, and finds its own place there."""
        asked, began, self._began = self.strip.asked, self._began, None
        over = self.piece_under(at)
        if began is None or not isinstance(asked, Picture) or over in (None, asked.piece):
            return
        if self.board.bench.job.tooling[self.strip.number - 1] is began[0].asked:
            return  # it was only taken in hand
        assert over is not None
        self.strip.change("move", replace(asked, piece=over, side="largest", at=None))

    def _change(self, name: str, asked: Picture) -> None:
        self.strip.change(name, asked, joins=f"tool {name} {self.strip.number}")

    # By keys

    def key(self, event: QKeyEvent) -> bool:
        """What a key does here; whether it does anything."""
        if not self.here:
            return False
        key, many = Qt.Key(event.key()), 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
        plain: dict[Qt.Key, Callable[[], object]] = {
            Qt.Key.Key_F: self.strip.add_field, Qt.Key.Key_I: self.strip.ask_picture,
            Qt.Key.Key_L: self.strip.add_letters, Qt.Key.Key_K: lambda: self.strip.ask_picture(mark=True),
            Qt.Key.Key_Delete: self.strip.take_off, Qt.Key.Key_W: self.strip.weave,
            Qt.Key.Key_Escape: lambda: self.strip.choose(0),
            Qt.Key.Key_Comma: lambda: self._step(-1), Qt.Key.Key_Period: lambda: self._step(1),
            Qt.Key.Key_Less: lambda: self._step(-1), Qt.Key.Key_Greater: lambda: self._step(1),
        }  # fmt: skip
        if key in plain:
            plain[key]()
            return True
        asked, put = self.strip.asked, self.strip.put
        if not isinstance(asked, Picture) or put is None or put.field is None:
            return False
        step = many * self.board.bench.job.units.nudge
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if key in moves:
            at, way = asked.at or put.at, np.array(moves[key]) * (FLIP if self._mirrored else 1)
            self._change("move", replace(asked, at=_tenths((at[0] + step * way[0], at[1] + step * way[1]))))
        elif key in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            wide = (asked.width or put.width) * LARGER ** (many if key == Qt.Key.Key_PageUp else -many)
            self._change("size", replace(asked, width=round(float(np.clip(wide, LEAST, MOST)), 2)))
        elif key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BracketRight, Qt.Key.Key_BraceLeft, Qt.Key.Key_BraceRight):
            left = key in (Qt.Key.Key_BracketLeft, Qt.Key.Key_BraceLeft)
            turn = asked.turn + (15 if many > 1 else 1) * (1 if left else -1)
            self._change("turn", replace(asked, turn=(turn + 180) % 360 - 180))
        elif key == Qt.Key.Key_X:
            self.strip.change("mirror", replace(asked, mirrored=not asked.mirrored))
        elif key == Qt.Key.Key_U:
            ways = [way.value for way in Reads]
            self.strip.change("turn", replace(asked, reads=ways[(ways.index(asked.reads) + 1) % len(ways)]))
        elif key == Qt.Key.Key_A:
            self.strip.change("find a place for", replace(asked, at=None, width=None))
        else:
            return False
        return True

    def _step(self, by: int) -> None:
        many = len(self.board.bench.job.tooling)
        if many:
            self.strip.choose((self.strip.number - 1 + by) % many + 1 if self.strip.number else 1)

    # What is seen of it

    def draw(self, painter: QPainter, view: QTransform) -> None:
        """The field of what is in hand, and what it is taken hold of by."""
        put = self.strip.put
        if not self.here or put is None or put.field is None:
            return
        on = self._on_board(put.field.piece)
        if on is None:
            return
        painter.save()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.colour(theme.PAPER, 45))
        painter.drawPath(path(on(_rim(put.field)), view, True))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for field in put.there:
            painter.setPen(QPen(QColor(WALNUT if field.side == put.field.side else GALL), 1, Qt.PenStyle.DotLine))
            painter.drawPath(path(on(_rim(field)), view, True))
        if (frame := self._frame(put)) is not None:
            painter.setPen(QPen(QColor(WALNUT), 1, Qt.PenStyle.DashLine))
            painter.drawPath(path(frame[0], view, True))
            size, turn = self._handles(frame)
            head = self.board.to_screen(*((frame[0][2] + frame[0][3]) / 2))
            painter.setPen(QPen(QColor(WALNUT), 1.4))
            painter.drawLine(head, turn)
            painter.setBrush(QColor(theme.PAPER))
            painter.drawRect(QRectF(size.x() - KNOB, size.y() - KNOB, 2 * KNOB, 2 * KNOB))
            painter.drawEllipse(turn, KNOB, KNOB)
        painter.restore()


def _rim(field: Field) -> Array:
    return np.asarray(shapely.get_coordinates(field.region.exterior))


def _tenths(at: tuple[float, float]) -> tuple[float, float]:
    return round(float(at[0]), 1), round(float(at[1]), 1)
