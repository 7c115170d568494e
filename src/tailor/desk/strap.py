"""The strap along the foot: the stages of the work in the order makers do them."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeySequence, QPainter, QPainterPath, QPaintEvent, QPen, QShortcut
from PyQt6.QtWidgets import QAbstractButton, QHBoxLayout, QWidget

from tailor.core.checks.verdict import Ruling
from tailor.core.keys import MEASURES
from tailor.desk import theme
from tailor.desk.drawing import ruling_mark
from tailor.desk.stages import STAGES
from tailor.desk.stages.stage import Stage
from tailor.desk.workbench import Workbench
from tailor.files.dyes import INK, WALNUT

MARK, LEAST = 26, 9.0  # px that the sign of its verdicts takes; pt that its name may be written in


class Keeper(QAbstractButton):
    """A paper tag on the strap: its stage, how many measures are settled there, and how many verdicts wait."""

    def __init__(self, stage: Stage, number: int, bench: Workbench, parent: QWidget) -> None:
        super().__init__(parent)
        self.setObjectName(f"stage {stage.name}")
        self.stage, self.number, self.bench = stage, number, bench
        self.setCheckable(True)
        self.setAutoExclusive(True)
        QShortcut(QKeySequence(f"Alt+{number}"), self, self.click)
        self.setAccessibleName(f"{stage.name}: {stage.doing}")
        self.setToolTip(f"{stage.name}: {stage.doing} (Alt+{number})")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def sizeHint(self) -> QSize:
        return QSize(200, 44)

    def waiting(self) -> tuple[int, Ruling]:
        """How many verdicts wait at this stage, and the gravest ruling."""
        mine = [v.ruling for v in self.bench.outcome.said if v.theme in self.stage.themes and v.ruling is not Ruling.OK]
        return len(mine), Ruling.STOP if Ruling.STOP in mine else Ruling.LOOK if mine else Ruling.OK

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(self.rect()).adjusted(2, 3, -2, -3)
        notch = 12.0
        shape = QPainterPath(QPointF(box.left() + notch, box.top()))
        for x, y in (
            (box.right() - 5, box.top()), (box.right(), box.top() + 5), (box.right(), box.bottom() - 5),
            (box.right() - 5, box.bottom()), (box.left() + notch, box.bottom()), (box.left(), box.center().y()),
        ):  # fmt: skip
            shape.lineTo(QPointF(x, y))
        shape.closeSubpath()
        on = self.isChecked()
        painter.setPen(QPen(QColor(WALNUT if self.hasFocus() else theme.EDGE), 2.4 if self.hasFocus() else 1))
        painter.setBrush(QColor(theme.PAPER if on else theme.BENCH))
        painter.drawPath(shape)
        painter.setBrush(QColor(theme.STRAP_DARK))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.drawEllipse(QPointF(box.left() + notch + 3, box.center().y()), 2.6, 2.6)
        painter.setPen(QColor(INK))
        inside, size = box.adjusted(23, 2, -6, -2), 12.5 if on else 11.5
        painter.setFont(theme.heading(size))
        while size > LEAST and painter.fontMetrics().horizontalAdvance(self.stage.name) > inside.width() - MARK:
            size -= 0.5
            painter.setFont(theme.heading(size))
        painter.drawText(inside.adjusted(0, 0, 0, -14), Qt.AlignmentFlag.AlignVCenter, self.stage.name)
        waiting, ruling = self.waiting()
        painter.setFont(theme.text(9))
        pinned = sum(MEASURES[name].theme in self.stage.themes for name in self.bench.job.settings)
        key, more = f"Alt {self.number}", f"{pinned} pinned" if pinned else self.stage.doing
        room = inside.width() - MARK
        said = (f"{key} · {more}", more if pinned else key)
        fit = [w for w in said if painter.fontMetrics().horizontalAdvance(w) <= room]
        words = fit[0] if fit else key  # its tip says the rest
        painter.drawText(inside.adjusted(0, 20, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
        ruling_mark(painter, QRectF(box.right() - 24, box.center().y() - 8, 15, 15), ruling)
        if waiting:
            painter.setPen(QColor(theme.PAPER if ruling is Ruling.STOP else theme.RULING[ruling]))
            painter.setFont(theme.text(8, bold=True))
            painter.drawText(
                QRectF(box.right() - 24, box.center().y() - 6, 15, 13),
                Qt.AlignmentFlag.AlignCenter,
                str(waiting),
            )


class Strap(QWidget):
    """All the stages that are built, in order."""

    chosen = pyqtSignal(str)

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setFixedHeight(58)
        row = QHBoxLayout(self)
        row.setContentsMargins(20, 7, 20, 7)
        row.setSpacing(8)
        self.keepers = {name: Keeper(stage, k, bench, self) for k, (name, stage) in enumerate(STAGES.items(), 1)}
        for stage, keeper in self.keepers.items():
            row.addWidget(keeper, 1)
            keeper.clicked.connect(lambda _, s=stage: self.chosen.emit(s))
        bench.drafted.connect(self._refresh)
        bench.staled.connect(self._refresh)

    def show_stage(self, stage: str) -> None:
        self.keepers[stage].setChecked(True)

    def _refresh(self) -> None:
        for keeper in self.keepers.values():
            keeper.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strap = QRectF(self.rect()).adjusted(4, 4, -4, -4)
        painter.setPen(QPen(QColor(theme.STRAP_DARK), 1))
        painter.setBrush(QColor(theme.STRAP))
        painter.drawRoundedRect(strap, 10, 10)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        thread = QPen(QColor("#ecd9b4"), 1.4)
        thread.setDashPattern([4, 3])
        painter.setPen(thread)
        painter.drawRoundedRect(strap.adjusted(4, 4, -4, -4), 7, 7)
