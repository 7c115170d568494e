"""Looks: the made-up case as a lit relief, and how the leather is strained, on any scene of the board."""

from __future__ import annotations

import struct
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from PyQt6.QtCore import QByteArray, QDataStream, QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QColor, QImage, QPainter, QPainterPath, QPen, QTransform

from tailor.core.carried.loft import Array
from tailor.core.draft.draft import Draft
from tailor.core.draft.fitted.panels import as_cut
from tailor.core.draft.piece import FLIP
from tailor.core.draft.views.seen import Eye
from tailor.core.job import Job
from tailor.core.looked import Look, Looked, Picture, Rgb
from tailor.core.shell.formed import Formed
from tailor.core.shell.strain import Strain
from tailor.desk import theme
from tailor.desk.card import draw_scene
from tailor.desk.drawing import path
from tailor.desk.hanging import carried
from tailor.desk.scene import Scene
from tailor.desk.scene_flat import flat
from tailor.desk.scene_made_up import made_up, relieved
from tailor.desk.stages.stage import Stage
from tailor.files.dyes import ANNATTO, CORNFLOWER, GALL, INK

LEVELS = 95  # of tint, from none to all that leather bears
FAINT = 0.12  # share of what the leather bears, below which it is not tinted


def _rgb(name: str) -> Rgb:
    found = QColor(name)
    return found.red(), found.green(), found.blue()


def draw_picture(painter: QPainter, view: QTransform, picture: Picture) -> None:
    left, bottom, right, top = picture.room
    room = QRectF(view.map(QPointF(left, top)), view.map(QPointF(right, bottom)))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    h, w = picture.lit.shape[:2]
    painter.drawImage(room, QImage(picture.lit.tobytes(), w, h, 4 * w, QImage.Format.Format_RGBA8888))


@dataclass(frozen=True)
class Strained:
    """One panel's strain where it lies on a scene: corners (r, c, 2), mm. named: its worst places are named."""

    panel: Formed
    strain: Strain
    corners: Array
    named: bool = True

    @cached_property
    def _cells(self) -> tuple[Array, Array]:
        """How much of what it bears each cell takes, (r, c); and their corners, (r, c, 4, 2), mm."""
        load, at = self.strain.load, self.corners
        quads = np.stack([at[:-1, :-1], at[:-1, 1:], at[1:, 1:], at[1:, :-1]], axis=2)
        return (load[:-1, :-1] + load[1:, :-1] + load[:-1, 1:] + load[1:, 1:]) / 4, quads

    @cached_property
    def tints(self) -> list[tuple[QColor, QPainterPath]]:
        """Cells that are tinted alike, in mm, by their colour; worked out once, since they are painted often."""
        cells, quads = self._cells
        level = np.where(np.abs(cells) < FAINT, 0, np.ceil(np.abs(np.clip(cells, -1, 1)) * LEVELS) * np.sign(cells))
        return [
            (theme.colour(ANNATTO if k > 0 else CORNFLOWER, int(190 * abs(k) / LEVELS)), _joined(quads[level == k]))
            for k in np.unique(level[level != 0])
        ]

    @cached_property
    def beyond(self) -> QPainterPath:
        """Cells that take more than leather bears, in mm."""
        cells, quads = self._cells
        return _joined(quads[np.abs(cells) > 1])


def _joined(quads: Array) -> QPainterPath:
    """Cells (n, 4, 2) as one path, handed over whole: there may be tens of thousands of them."""
    told = np.empty((len(quads), 5), dtype=[("kind", ">i4"), ("x", ">f8"), ("y", ">f8")])
    told["kind"] = [0, 1, 1, 1, 1]  # a move, and lines
    told["x"], told["y"] = (quads[:, [0, 1, 2, 3, 0], axis] for axis in (0, 1))
    whole = struct.pack(">i", told.size) + told.tobytes() + struct.pack(">ii", 0, Qt.FillRule.WindingFill.value)
    found = QPainterPath()
    QDataStream(QByteArray(whole)) >> found  # type: ignore[operator]
    return found


def strained_flat(found: Looked, shifts: dict[str, float]) -> list[Strained]:
    """The strain on the pieces laid flat. shifts: how far each piece was moved aside, by its name."""
    made, lying = found.made, list[Strained]()
    for panel, strain in found.strains:
        name = next((n for n in (panel.side, f"{panel.side} blank", "body") if n in shifts), None)
        if name is None:
            continue
        way = FLIP if panel.side == "back" else np.ones(2)
        hand = FLIP if made.mirrored else np.ones(2)
        lies = as_cut(made, panel) * way * hand + np.array([shifts[name], 0.0])
        lying.append(Strained(panel, strain, lies, named=all(f.strain is not strain for f in lying)))
    return lying


def strained_up(found: Looked) -> list[Strained]:
    """The strain on the made-up case, seen from the front or from behind."""
    eye = found.look.eye
    if eye is Eye.EDGE:
        return []
    side = "back" if eye is Eye.BEHIND else "front"
    way = FLIP if (eye is Eye.BEHIND) != found.made.mirrored else np.ones(2)
    return [Strained(panel, s, panel.places[:, :, :2] * way) for panel, s in found.strains if panel.side == side]


def _on_screen(of: Strained, view: QTransform) -> Array:
    """The corners of a panel's cells on the screen, (r, c, 2), px."""
    m = np.array([[view.m11(), view.m12()], [view.m21(), view.m22()]])
    return np.asarray(of.corners @ m + np.array([view.dx(), view.dy()]))


def draw_tint(painter: QPainter, view: QTransform, of: Strained) -> None:
    """Annatto where it stretches, cornflower where it takes up fullness; hatched where it will not."""
    painter.save()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # else cells show their seams
    painter.setTransform(view, True)
    for colour, cells in of.tints:
        painter.fillPath(cells, colour)
    hatch = QBrush(QColor(INK), Qt.BrushStyle.DiagCrossPattern)
    hatch.setTransform(view.inverted()[0])  # as fine as the screen, whatever the scale
    painter.fillPath(of.beyond, hatch)
    painter.restore()


def draw_worst(painter: QPainter, view: QTransform, of: Strained) -> None:
    """Where a panel stretches most and takes up most, and how much of what it bears."""
    strain, on = of.strain, _on_screen(of, view)
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


KEPT = 8  # scenes of one draft, as its stages leave it more or less room


class Looks:
    """How the board is looked at: as drawn or as a relief from one side, with the strain shown or not."""

    def __init__(self) -> None:
        self.eye: Eye | None = None
        self.strain_shown = False
        self.held: Draft | None = None
        self._picture: Picture | None = None
        self._flat_of: Draft | None = None
        self._flat: dict[float, Scene] = {}  # of that draft laid flat, by aspect
        self._strained: list[Strained] = []
        self._ghosts: list[Array] = []

    def look(self, laid_flat: bool) -> Look | None:
        """What is to be looked at in a draft besides its lines; None where they are all."""
        eye = None if laid_flat else self.eye
        if eye is None and not self.strain_shown:
            return None
        return Look(eye, self.strain_shown, _rgb(theme.LEATHER), _rgb(theme.STEEL))

    def looked_at(self, made: Draft, laid_flat: bool, found: Looked | None) -> bool:
        """Whether what was found in a draft is what is to be looked at now, or nothing is."""
        look = self.look(laid_flat)
        return look is None or (found is not None and found.made is made and found.look == look)

    def scene(self, job: Job, made: Draft, laid_flat: bool, stage: Stage, found: Looked | None, aspect: float) -> Scene:
        """The scene for a draft, with its picture and its strain where they are wanted.

        found: what was looked at with the draft; where the look has changed since, it is drawn in lines until it is
        looked at anew. aspect: of the board's width to its height.
        """
        look = self.look(laid_flat)
        if not self.looked_at(made, laid_flat, found):
            found = None
        self._picture = found.picture if look is not None and found is not None else None
        if laid_flat:
            scene = self._laid_flat(made, aspect)
        elif look is not None and look.eye is not None and self._picture is not None:
            scene = relieved(job, made, look.eye, self._picture.room)
        else:
            scene = carried(job, made) if stage.hung else made_up(made, job, bare=stage.bare)
        self._ghosts = self._held_outlines(made, scene, laid_flat)
        self._strained = []
        if self.strain_shown and found is not None:
            scene.pieces = []  # what is written on the pieces would hide it
            self._strained = strained_flat(found, scene.shifts) if laid_flat else strained_up(found)
        return scene

    def _laid_flat(self, made: Draft, aspect: float) -> Scene:
        """The pieces of a draft laid flat, worked out once for each aspect: what is written on them too."""
        if self._flat_of is not made or len(self._flat) == KEPT:
            self._flat_of, self._flat = made, {}
        if aspect not in self._flat:
            self._flat[aspect] = flat(made, aspect)
        return self._flat[aspect].again()

    def _held_outlines(self, made: Draft, scene: Scene, laid_flat: bool) -> list[Array]:
        """Outlines of the held draft where the present one lies: its pieces by name, or all of it made up."""
        if self.held is None or self.eye in (Eye.BEHIND, Eye.EDGE):
            return []
        if not laid_flat:
            if self.held.plan is None:
                return []
            return [self.held.plan.outline * (FLIP if made.mirrored else 1.0)]
        return [
            p.cut + np.array([scene.shifts[p.name], scene.lifts[p.name]])
            for p in self.held.pieces
            if p.name in scene.shifts
        ]

    def draw(self, painter: QPainter, view: QTransform, scene: Scene, stage: Stage, bare: bool) -> None:
        """The scene: over the relief, where there is one, and under the strain and the draft that is held."""
        if self._picture is not None:
            draw_picture(painter, view, self._picture)
        draw_scene(painter, view, scene, stage.strong, bare)
        for points in self._ghosts:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(GALL), 1.4, Qt.PenStyle.DashDotLine))
            painter.drawPath(path(points, view, True))
        for strained in self._strained:
            draw_tint(painter, view, strained)
        for strained in self._strained:  # over every tint
            if strained.named:
                draw_worst(painter, view, strained)
