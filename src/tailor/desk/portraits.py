"""Portraits: jobs as they look when they are made, drawn in a process of their own, and kept for the next time."""

from __future__ import annotations

import contextlib
import hashlib
from collections import OrderedDict
from collections.abc import Callable
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QObject, QPointF, QRectF, QSizeF, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPixmap

from tailor.core.errors import DiskError
from tailor.core.job import Job
from tailor.desk.cards import drawn
from tailor.desk.proposing import ProposingRoom
from tailor.desk.turning import dyes
from tailor.files import atomic, job_file
from tailor.files.state import folder

PORTRAYER = "tailor.core.portrayer"
SIZE = 260, 170  # px, at the most
LOOK = "1"  # how they look: what was kept of another look is not taken
KEPT, AT_HAND = 400, 128  # on disk, and in memory
SETTLES = 600  # ms that cards lie there before anything is drawn for them
LONGEST = 20_000  # ms for one
Draw = Callable[[QPainter, QRectF], None]


class Portraits(QObject):
    """Draws jobs on cards: at first by their outlines, then as they look when they are made.

    came: another portrait is there. Nothing is worked out but while somebody looks.
    """

    came = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._known = OrderedDict[str, QPixmap]()
        self._wanted = OrderedDict[str, Job]()
        self._now = ""
        self.room = ProposingRoom(self, PORTRAYER)
        self.room.found.connect(self._found)
        self.room.done.connect(self._next)
        self._settled = QTimer(self, interval=SETTLES, singleShot=True, timeout=self._next)
        self._late = QTimer(self, interval=LONGEST, singleShot=True, timeout=self._give_up)

    @property
    def busy(self) -> bool:
        """Whether more are to come."""
        return bool(self._wanted or self._now)

    def drawn(self, job: Job, plain: Draw | None = None) -> Draw:
        """How a job is drawn on a card. plain: how until its portrait is there; else the object it is for."""
        at_first, key = plain or drawn(job), ""

        def draw(painter: QPainter, box: QRectF) -> None:
            nonlocal key
            key = key or _key(job)
            if (picture := self._of(key, job)).isNull():
                at_first(painter, box)
                return
            fitted = QSizeF(picture.size()).scaled(box.size(), Qt.AspectRatioMode.KeepAspectRatio)
            at = box.center() - QPointF(fitted.width() / 2, fitted.height() / 2)
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawPixmap(QRectF(at, fitted), picture, QRectF(picture.rect()))

        return draw

    def leave(self) -> None:
        """Nobody looks any more."""
        self._wanted.clear()
        self._now = ""
        self._settled.stop()
        self._late.stop()
        self.room.close()

    def _of(self, key: str, job: Job) -> QPixmap:
        """The portrait of a job, if there is one; else an empty one, and it is asked for where it was not yet."""
        if key in self._known:
            self._known.move_to_end(key)
            return self._known[key]
        place = _place(key)
        kept = QPixmap(str(place)) if place.is_file() else QPixmap()
        if kept.isNull():
            if key != self._now:
                self._wanted[key] = job
                if not self._now and not self._settled.isActive():
                    self._settled.start()
        else:
            self._know(key, kept)
        return kept

    def _know(self, key: str, picture: QPixmap) -> None:
        self._known[key] = picture
        while len(self._known) > AT_HAND:
            self._known.popitem(last=False)

    def _next(self) -> None:
        if self._now and self._now not in self._known:  # over which the process has ended
            self._know(self._now, QPixmap())
        self._now = ""
        self._late.stop()
        if self._wanted:
            self._now, job = self._wanted.popitem(last=False)
            self._late.start()
            self.room.ask(job, dyes(), SIZE)

    def _give_up(self) -> None:
        """What takes too long stays an outline."""
        self.room.close()
        self._next()

    def _found(self, found: np.ndarray) -> None:
        high, wide = found.shape[:2]
        picture = QPixmap()
        if high:
            image = QImage(found.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()
            picture = QPixmap.fromImage(image)
            _keep(self._now, image)
        self._know(self._now, picture)
        self.came.emit()


def _key(job: Job) -> str:
    return hashlib.sha256(
        f"{LOOK} {SIZE} {job_file.to_text(job)} {sorted(job.settings.maker.habits.items())}".encode()
    ).hexdigest()[:32]


def _place(key: str) -> Path:
    return folder() / "portraits" / f"{key}.png"


def _keep(key: str, image: QImage) -> None:
    """Keep a portrait for the next time, and of those that were kept the latest; where that cannot be, it is not."""
    content, buffer = QByteArray(), QBuffer()
    buffer.setBuffer(content)
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    with contextlib.suppress(DiskError, OSError):
        place = _place(key)
        place.parent.mkdir(parents=True, exist_ok=True)
        atomic.write(place, bytes(content.data()))
        every = sorted(place.parent.glob("*.png"), key=lambda each: each.stat().st_mtime)
        for old in every[:-KEPT]:
            old.unlink(missing_ok=True)
