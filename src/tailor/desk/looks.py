"""Looks: the made-up case as a lit relief, and how the leather is strained, on any scene of the board."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPen, QPolygonF, QTransform

from tailor.core.carried.loft import Array
from tailor.core.checks import forming
from tailor.core.draft.draft import Draft
from tailor.core.draft.panels import as_cut, panels
from tailor.core.draft.piece import FLIP
from tailor.core.draft.seen import Eye, seen
from tailor.core.job import Job
from tailor.core.shell.formed import Formed
from tailor.core.shell.strain import Strain
from tailor.desk import theme
from tailor.desk.card import draw_scene
from tailor.desk.drawing import path
from tailor.desk.scene import Scene, flat, made_up, relieved
from tailor.files.dyes import ANNATTO, CORNFLOWER, GALL, INK

FAINT = 0.12  # share of what the leather bears, below which it is not tinted


@dataclass(frozen=True)
class Picture:
    """A lit relief: the picture and the room it takes, left, bottom, right, top, mm."""

    image: QImage
    room: tuple[float, float, float, float]


def _rgb(name: str) -> tuple[int, int, int]:
    found = QColor(name)
    return found.red(), found.green(), found.blue()


def pictured(made: Draft, eye: Eye) -> Picture:
    """The relief of a draft, as it is worn by its hand."""
    relief = seen(made, eye)
    lit = np.ascontiguousarray(relief.lit(_rgb(theme.LEATHER), _rgb(theme.STEEL)))
    h, w = lit.shape[:2]
    image = QImage(lit.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBA8888).copy()
    left, right = float(relief.across[0]), float(relief.across[-1])
    if made.mirrored:
        image = image.flipped(Qt.Orientation.Horizontal)
        left, right = -right, -left
    return Picture(image, (left, float(relief.up[-1]), right, float(relief.up[0])))


def draw_picture(painter: QPainter, view: QTransform, picture: Picture) -> None:
    left, bottom, right, top = picture.room
    room = QRectF(view.map(QPointF(left, top)), view.map(QPointF(right, bottom)))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(room, picture.image)


@dataclass(frozen=True)
class Strained:
    """One panel's strain where it lies on a scene: corners (r, c, 2), mm. named: its worst places are named."""

    panel: Formed
    strain: Strain
    corners: Array
    named: bool = True


@dataclass(frozen=True)
class Worked:
    """What a look needs of a draft: it is worked out off the window's thread while a measure is dragged.

    look: which look it is for. picture, strains: None and empty where that look has none.
    """

    made: Draft
    look: tuple[Eye | None, bool, bool]
    picture: Picture | None
    strains: tuple[tuple[Formed, Strain], ...]


def strained_flat(worked: Worked, shifts: dict[str, float]) -> list[Strained]:
    """The strain on the pieces laid flat. shifts: how far each piece was moved aside, by its name."""
    made, found = worked.made, list[Strained]()
    for panel, strain in worked.strains:
        name = next((n for n in (panel.side, f"{panel.side} blank", "body") if n in shifts), None)
        if name is None:
            continue
        way = FLIP if panel.side == "back" else np.ones(2)
        hand = FLIP if made.mirrored else np.ones(2)
        lies = as_cut(made, panel) * way * hand + np.array([shifts[name], 0.0])
        found.append(Strained(panel, strain, lies, named=all(f.strain is not strain for f in found)))
    return found


def strained_up(worked: Worked) -> list[Strained]:
    """The strain on the made-up case, seen from the front or from behind."""
    eye = worked.look[0]
    if eye is Eye.EDGE:
        return []
    side = "back" if eye is Eye.BEHIND else "front"
    way = FLIP if (eye is Eye.BEHIND) != worked.made.mirrored else np.ones(2)
    return [Strained(panel, s, panel.places[:, :, :2] * way) for panel, s in worked.strains if panel.side == side]


def draw_strain(painter: QPainter, view: QTransform, of: Strained) -> None:
    """Annatto where it stretches, cornflower where it takes up fullness; hatched where it will not; the worst named."""
    load = of.strain.load
    cell = (load[:-1, :-1] + load[1:, :-1] + load[:-1, 1:] + load[1:, 1:]) / 4
    rows, columns = cell.shape
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # else cells show their seams
    m = np.array([[view.m11(), view.m12()], [view.m21(), view.m22()]])
    on = of.corners @ m + np.array([view.dx(), view.dy()])
    for k in range(rows):
        for j in range(columns):
            value = float(cell[k, j])
            if abs(value) < FAINT:
                continue
            colour = theme.colour(ANNATTO if value > 0 else CORNFLOWER, int(190 * min(abs(value), 1.0)))
            quad = QPolygonF([QPointF(*on[k, j]), QPointF(*on[k, j + 1]), QPointF(*on[k + 1, j + 1]),
                              QPointF(*on[k + 1, j])])  # fmt: skip
            painter.setBrush(QBrush(colour))
            painter.drawPolygon(quad)
            if abs(value) > 1:
                painter.setBrush(QBrush(QColor(INK), Qt.BrushStyle.DiagCrossPattern))
                painter.drawPolygon(quad)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if not of.named:
        return
    strain = of.strain
    named = [(strain.worst(), f"gives {100 * strain.stretch[strain.worst()]:.0f} % of "
              f"{100 * strain.limit[strain.worst()]:.0f}", ANNATTO),
             (strain.tightest(), f"takes up {100 * strain.gather[strain.tightest()]:.0f} % of "
              f"{100 * strain.wrinkles:.0f}", CORNFLOWER)]  # fmt: skip
    painter.setFont(theme.text(9.5, bold=True))
    taken: list[QRectF] = []
    for at, said, colour_ in named:
        spot = QPointF(*on[at])
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(colour_), 2))
        painter.drawEllipse(spot, 5, 5)
        wide = painter.fontMetrics().horizontalAdvance(said) + 10
        slip = QRectF(spot.x() + 9, spot.y() - 9, wide, 18)
        while any(slip.intersects(other) for other in taken):
            slip.translate(0, 20)
        taken.append(slip)
        painter.setBrush(QColor(theme.PAPER))
        painter.setPen(QPen(QColor(colour_), 1))
        painter.drawRoundedRect(slip, 3, 3)
        painter.setPen(QColor(INK))
        painter.drawText(slip, Qt.AlignmentFlag.AlignCenter, said)


class Looked:
    """How the board is looked at: as drawn or as a relief from one side, with the strain shown or not."""

    def __init__(self) -> None:
        self.eye: Eye | None = None
        self.strain_shown = False
        self._picture: Picture | None = None
        self._strained: list[Strained] = []
        self.held: Draft | None = None
        self._ghosts: list[Array] = []

    def work(self, job: Job, made: Draft, laid_flat: bool) -> Worked:
        """What the present look needs of a draft; may run on any thread."""
        look = self.eye, self.strain_shown, laid_flat
        picture = None if self.eye is None or laid_flat else pictured(made, self.eye)
        every = panels(made) if self.strain_shown else ()
        strains = zip(every, forming.strains(job.settings, made, every), strict=True) if every else ()
        return Worked(made, look, picture, tuple(strains))

    def scene(self, job: Job, made: Draft, laid_flat: bool, bare: bool, beside: object) -> Scene:
        """The scene for a draft, with its picture and its strain where they are wanted.

        beside: what was worked out with the draft; worked out here where the look has changed since.
        """
        worked = beside if isinstance(beside, Worked) else None
        if worked is None or worked.made is not made or worked.look != (self.eye, self.strain_shown, laid_flat):
            worked = self.work(job, made, laid_flat)
        self._picture = worked.picture
        if laid_flat:
            scene = flat(made)
        elif self.eye is not None and self._picture is not None:
            scene = relieved(job, made, self.eye, self._picture.room)
        else:
            scene = made_up(job, made, bare=bare)
        self._ghosts = self._held_outlines(made, scene, laid_flat)
        self._strained = []
        if self.strain_shown:
            scene.words = []  # what is written on the pieces would hide it
            self._strained = strained_flat(worked, scene.shifts) if laid_flat else strained_up(worked)
        return scene

    def _held_outlines(self, made: Draft, scene: Scene, laid_flat: bool) -> list[Array]:
        """Outlines of the held draft where the present one lies: its pieces by name, or all of it made up."""
        if self.held is None or self.eye in (Eye.BEHIND, Eye.EDGE):
            return []
        if not laid_flat:
            return [self.held.plan.outline * (FLIP if made.mirrored else 1.0)]
        return [p.cut + np.array([scene.shifts[p.name], 0.0]) for p in self.held.pieces if p.name in scene.shifts]

    def draw(self, painter: QPainter, view: QTransform, scene: Scene, stage: str, bare: bool) -> None:
        """The scene: over the relief, where there is one, and under the strain and the draft that is held."""
        if self._picture is not None:
            draw_picture(painter, view, self._picture)
        draw_scene(painter, view, scene, stage, bare)
        for points in self._ghosts:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(GALL), 1.4, Qt.PenStyle.DashDotLine))
            painter.drawPath(path(points, view, True))
        for strained in self._strained:
            draw_strain(painter, view, strained)
