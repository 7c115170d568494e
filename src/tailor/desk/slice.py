"""The slice: a cut straight through object and leather at the bar, every layer at its real thickness."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRect, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetrics, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QWidget

from tailor.core.draft.draft import Draft
from tailor.core.draft.flat_goods.built import Cross
from tailor.core.draft.views.belted import Belted, belted
from tailor.core.draft.views.section import Section, cut_through
from tailor.core.draft.views.upright import Upright, upright
from tailor.core.units import format_length, retold
from tailor.desk import theme
from tailor.desk.alongside import draw_belted, draw_cross, draw_profile, draw_upright
from tailor.desk.drawing import path
from tailor.desk.stages import STAGES
from tailor.desk.stages.stage import Stage
from tailor.desk.workbench import Workbench
from tailor.files.dyes import GALL, INDIGO, INK
from tailor.files.linework import LINES

WRAPPED = Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap


class Slice(QWidget):
    """Shows the section of the present draft at a height."""

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("slice")
        self.setAccessibleName("Slice through object and leather")
        self.setMinimumHeight(190)
        self.bench = bench
        self.at = 0.0  # mm, where it is cut
        self.stage = STAGES["Draft"]
        self.section: Section | None = None
        self._cut: tuple[Draft, float, Section | Cross] | None = None  # the last one, of what, and where
        self.belted: Belted | None = None
        self.cross: Cross | None = None
        self.upright: Upright | None = None
        self.held: Draft | None = None
        self.ghost: Section | None = None
        bench.staled.connect(self.update)
        bench.drafted.connect(lambda: self.cut_at(self.at))

    def show_stage(self, stage: Stage) -> None:
        """Show what a stage looks at: the stack along the seam too, or in the section's place the loop on a belt."""
        self.stage = stage
        self.cut_at(self.at)

    def cut_at(self, y: float) -> None:
        """Cut at y mm."""
        self.at = y
        made = self.bench.made
        self.upright, self.belted, self.section, self.ghost, self.cross = None, None, None, None, None
        if made is not None:
            if self.stage.hung:
                settings = self.bench.outcome.job.settings
                self.upright = upright(made, settings)
                self.belted = belted(made, settings) if self.upright is None else None
            if self._cut is None or self._cut[0] is not made or self._cut[1] != y:
                self._cut = made, y, cut_through(made, y)
            beside = None if self.held is None else cut_through(self.held, y)
            match self._cut[2], beside:
                case Section() as found, Section() as ghost:
                    self.section, self.ghost = found, ghost
                case Section() as found, _:
                    self.section = found
                case Cross() as found, _:
                    self.cross = found
        self.update()

    def hold(self, made: Draft | None) -> None:
        """Show another draft's section too, dashed, to compare with; or none."""
        self.held = made
        self.cut_at(self.at)

    @property
    def _along(self) -> int:
        """px of height for the stack along its seam."""
        return min(70, self.height() // 5)

    def _why(self, cut: Section) -> str:
        """Why the seam stands so far off there."""
        if cut.reason is None or cut.front is None:
            return ""
        units = self.bench.job.units
        return retold(f"Standoff {format_length(cut.reason.value, units)}: {cut.reason.rule}", units)

    def _more(self, cut: Section) -> int:
        """px that its reason takes besides one line, but no more than a second."""
        metrics = QFontMetrics(theme.text(10.5))
        wanted = metrics.boundingRect(QRect(0, 0, self.width() - 28, 200), WRAPPED, self._why(cut)).height()
        return max(min(wanted - metrics.height(), metrics.height()), 0)

    def _view(self, cut: Section) -> QTransform:
        """mm to screen: x right from the fold, z up, both at one scale, mirrored for a left hand."""
        shown = [p for p in (cut.thing, cut.room, cut.front, cut.back) if p is not None]
        every = np.vstack(shown) if shown else np.array([[0.0, -5.0], [40.0, 5.0]])
        low, high = every.min(axis=0), every.max(axis=0)
        below = 120 + (self._along + 14 if self.stage.stacked else self._more(cut))
        room = QRectF(16, 52, self.width() - 32, self.height() - below)
        scale = min(room.width() / max(high[0] - low[0], 1), room.height() / max(high[1] - low[1], 1))
        left_hand = self.bench.made is not None and self.bench.made.mirrored
        view = QTransform.fromTranslate(room.center().x(), room.center().y())
        view.scale(-scale if left_hand else scale, -scale)
        view.translate(-float(low[0] + high[0]) / 2, -float(low[1] + high[1]) / 2)
        return view

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(theme.EDGE), 1))
        painter.setBrush(QColor(theme.PAPER))
        painter.drawRect(QRectF(self.rect()).adjusted(1, 4, -4, -1))
        units = self.bench.job.units
        if self.upright is not None:
            draw_upright(painter, QRectF(self.rect()), self.upright)
            return
        if self.belted is not None:
            draw_belted(painter, QRectF(self.rect()), self.belted, units)
            return
        painter.setPen(QColor(INK))
        painter.setFont(theme.heading(12.5))
        rough = self.bench.outcome.rough and self.bench.outcome.job is self.bench.job
        stale = "" if self.bench.fresh else "   roughed out …" if rough else "   working it out …"
        painter.drawText(QPointF(14, 26), f"Slice at {format_length(self.at, units)}{stale}")
        if self.cross is not None:
            draw_cross(painter, QRectF(self.rect()), self.cross)
        cut = self.section
        if cut is None:
            return
        view = self._view(cut)
        self._layers(painter, view, cut)
        for side in (self.ghost.front, self.ghost.back) if self.ghost is not None else ():
            if side is not None:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(QColor(GALL), 1.3, Qt.PenStyle.DashDotLine))
                painter.drawPath(path(side, view, True))
        painter.setFont(theme.text(10.5))
        painter.setPen(QColor(INK))
        foot = QRectF(14, self.height() - 44, self.width() - 28, 40)
        made = self.bench.made
        if self.stage.stacked and made is not None and made.profile is not None:
            band = QRectF(14, self.height() - 52 - self._along, self.width() - 28, self._along)
            k = int(np.abs(made.sides[0].holes.points[:, 1] - self.at).argmin())
            draw_profile(painter, band, made.profile, float(made.profile.at[k]), units)
            painter.setFont(theme.text(10.5))
            painter.setPen(QColor(INK))
        if cut.front is None:
            painter.drawText(foot, Qt.AlignmentFlag.AlignBottom, "Above the mouth: the object stands free.")
            return
        if not self.stage.stacked:  # there the stack stands above it
            foot = foot.adjusted(0, -self._more(cut), 0, 0)  # a long reason takes a second line
        painter.drawText(
            foot, Qt.AlignmentFlag.AlignTop,
            f"{'Stitch' if cut.two_sided else 'Fold'} to stitch: front {format_length(cut.front_path, units)}, "
            f"back {format_length(cut.back_path, units)}",
        )  # fmt: skip
        painter.setPen(QColor(GALL))
        painter.drawText(foot.adjusted(0, 18, 0, 4), WRAPPED, self._why(cut))

    def _layers(self, painter: QPainter, view: QTransform, cut: Section) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        if cut.room is not None:
            painter.fillPath(path(cut.room, view, True), QColor(theme.ROOM))
        for layer in cut.welts:
            painter.setPen(QPen(QColor(INK), 0.8))
            painter.setBrush(QColor(theme.WELTED))
            painter.drawPath(path(layer, view, True))
        for side in (cut.front, cut.back):
            if side is not None:
                painter.setPen(QPen(QColor(INK), 1.1))
                painter.setBrush(QColor(theme.LEATHER))
                painter.drawPath(path(side, view, True))
        if cut.thing is not None:
            painter.setPen(QPen(QColor(INK), 1.2))
            painter.setBrush(QColor(theme.STEEL))
            painter.drawPath(path(cut.thing, view, True))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if cut.neutral is not None:
            painter.setPen(QPen(QColor(GALL), 1, Qt.PenStyle.DotLine))
            painter.drawPath(path(cut.neutral, view))
        for stitch in cut.stitches:
            painter.setPen(QPen(QColor(INDIGO), 2.4))
            painter.drawPath(path(stitch, view))
        if cut.front is not None:
            self._names(painter, view, cut)

    def _names(self, painter: QPainter, view: QTransform, cut: Section) -> None:
        assert cut.front is not None
        assert cut.back is not None
        assert cut.stitch is not None
        units = self.bench.job.units
        painter.setFont(theme.text(9.5))
        painter.setPen(QColor(INK))
        top, low = float(cut.front[:, 1].max()), float(cut.back[:, 1].min())
        middle = float(cut.front[:, 0].mean())
        above, below = view.map(QPointF(middle, top)), view.map(QPointF(middle, low))
        painter.drawText(
            QRectF(above.x() - 60, above.y() - 17, 120, 15),
            Qt.AlignmentFlag.AlignCenter,
            f"front {format_length(cut.front_path, units)}",
        )
        painter.drawText(
            QRectF(below.x() - 60, below.y() + 2, 120, 15),
            Qt.AlignmentFlag.AlignCenter,
            f"back {format_length(cut.back_path, units)}",
        )
        if not cut.two_sided:
            self._fold_name(painter, view, cut, top)
        stitch = view.map(QPointF(*map(float, cut.stitch[0])))
        painter.setPen(QColor(INDIGO))
        painter.drawText(QRectF(stitch.x() - 30, stitch.y() - 17, 60, 15), Qt.AlignmentFlag.AlignCenter, "stitch")

    def _fold_name(self, painter: QPainter, view: QTransform, cut: Section, top: float) -> None:
        assert cut.front is not None
        fold = view.map(QPointF(float(cut.front[:, 0].min()), top))
        painter.setPen(QColor(LINES["fold"].colour))
        x = min(max(fold.x() - 22, 8.0), self.width() - 52.0)
        painter.drawText(QRectF(x, fold.y() - 17, 44, 15), Qt.AlignmentFlag.AlignCenter, "fold")
