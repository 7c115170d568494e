"""Photo on the mat, and flat scan: an outline found in a picture, mended by hand where the picture misleads."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QButtonGroup, QFileDialog, QHBoxLayout, QPushButton

from tailor.core.carried.capture import Capture, Way
from tailor.core.carried.loft import Array
from tailor.core.carried.outline import Pull, comb, finished, pulled
from tailor.core.carried.photo import scan
from tailor.core.carried.photo.parallax import Rise
from tailor.core.carried.photo.segment import Scene, Stroke
from tailor.core.carried.photo.trace import Seen, look, trace
from tailor.core.carried.photo.view import distortion
from tailor.core.carried.stations import Table
from tailor.core.errors import InputError
from tailor.core.units import INCH
from tailor.demo import captures
from tailor.desk.capture.easel import Hand, Sketch, pixmap
from tailor.desk.capture.labour import Tell
from tailor.desk.capture.way import Outlined, kept
from tailor.files import mat_sheet, photos
from tailor.files.photos import Picture

PICTURES = "Pictures (*.jpg *.jpeg *.png *.tif *.tiff *.webp)"
HANDS = {Hand.MOVE: "Look", Hand.KEEP: "Keep", Hand.REMOVE: "Remove", Hand.PULL: "Pull"}
KEYS = {Hand.MOVE: "Alt+L", Hand.KEEP: "Alt+K", Hand.REMOVE: "Alt+X", Hand.PULL: "Alt+P", Hand.RULER: "Alt+U"}
TIPS = {
    Hand.MOVE: "move and zoom the picture",
    Hand.KEEP: "paint over what belongs to the object",
    Hand.REMOVE: "paint over what does not",
    Hand.PULL: "pull the outline where it should run",
    Hand.RULER: "draw along the ruler in the picture",
}


GUESSED = 300.0  # dpi a scan is shown at until its fineness is known
UNKNOWN = "It does not say how fine it was scanned: type its dpi, or draw along a ruler in it."


@dataclass(frozen=True)
class Found:
    """What was found in a picture: the outline as seen and as measured, its table (None while its size is not
    known), and what to say of it."""

    scene: Scene
    seen: Array
    outline: Array
    straight: Array
    table: Table | None
    notes: tuple[str, ...]


class Pictured(Outlined):
    """What photo and scan share: the picture, the touches of the hand, and what follows from them."""

    looked = pyqtSignal(object)  # the scene, as soon as it is there, so that it can be painted on
    hands: tuple[Hand, ...] = (Hand.MOVE, Hand.KEEP, Hand.REMOVE, Hand.PULL)

    def build(self) -> None:
        self.strokes: list[Stroke] = []
        self.pulls: list[Pull] = []
        self._order: list[str] = []
        self.found: Found | None = None
        self.scene: Scene | None = None
        self.looked.connect(self._looked_at)
        self.path: Path | None = None
        self._pixmap: tuple[Scene, QPixmap] | None = None
        self.named = self.file_row("picture", PICTURES, self.open, self.demo_picture)
        self.ask_for()
        self.brush = self.length_field("brush", "3mm", "radius of the brush and of what is pulled", self._brushed)
        row = QHBoxLayout()
        self.group = QButtonGroup(self)
        self.hand_buttons: dict[Hand, QPushButton] = {}
        for hand in self.hands:
            button = QPushButton(HANDS.get(hand, hand.value.capitalize()))
            button.setCheckable(True)
            button.setShortcut(KEYS[hand])
            button.setToolTip(f"{TIPS[hand]} ({KEYS[hand]})")
            button.clicked.connect(lambda _, h=hand: self.easel.take_hand(h))
            self.group.addButton(button)
            self.hand_buttons[hand] = button
            row.addWidget(button)
        self.hand_buttons[Hand.MOVE].setChecked(True)
        self.undo_touch = QPushButton("Undo touch")
        self.undo_touch.setProperty("plain", "false")
        self.undo_touch.setShortcut("Alt+Backspace")
        self.undo_touch.setToolTip("take back the last touch of the hand (Alt+Backspace)")
        self.undo_touch.clicked.connect(self.untouch)
        row.addStretch()
        self.column.addLayout(row)
        below = QHBoxLayout()
        below.addWidget(self.undo_touch)
        below.addWidget(self.write_button(), 1)
        self.column.addLayout(below)
        self.easel.stroked.connect(self._stroked)
        self.labour.done.connect(self._came)

    def _brushed(self) -> None:
        """The brush has another radius."""
        try:
            self.easel.radius = min(max(self.needed(self.brush), 0.3), 60.0)
        except InputError as error:
            self.refused.emit(str(error))

    def ask_for(self) -> None:
        """The fields of this way."""
        raise NotImplementedError

    def demo_picture(self) -> Path:
        raise NotImplementedError

    def begin(self) -> None:
        self.easel.take_hand(Hand.MOVE)
        self.hand_buttons[Hand.MOVE].setChecked(True)
        if self.scene is None:
            super().begin()
        else:
            self._show()

    def open(self, path: Path) -> None:
        """Begin with another picture."""
        self.strokes, self.pulls, self._order = [], [], []
        self.found = self.scene = self.straight = self._pixmap = None
        self.named.setText(path.name)
        self.path = path
        self.easel.show_sketch(None, self.asks)
        self.again()

    def _stroked(self, points: Array, hand: str) -> None:
        if not self.isVisible() or self.scene is None:
            return
        if hand == Hand.PULL:
            self.pulls.append((points[0], points[-1] - points[0], 2 * self.easel.radius))
            self._order.append("pull")
        elif hand in (Hand.KEEP, Hand.REMOVE):
            self.strokes.append(Stroke(points, self.easel.radius, hand == Hand.KEEP))
            self._order.append("stroke")
        else:
            self.ruled(points)
            return
        self.again()

    def ruled(self, points: Array) -> None:
        """A line was drawn along a ruler."""

    def untouch(self) -> None:
        """Take back the last touch of the hand."""
        if self._order:
            (self.pulls if self._order.pop() == "pull" else self.strokes).pop()
            self.again()

    def _looked_at(self, scene: Scene) -> None:
        """The picture is there, and nothing found in it yet that belongs to what is asked now."""
        self.scene, self.found, self.straight = scene, None, None
        if self.isVisible():
            self._show()

    def _failed(self, said: str) -> None:
        self.found = self.straight = None
        super()._failed(said)
        if self.isVisible() and self.scene is not None:
            self._show()

    def _came(self, found: Found) -> None:
        self.found, self.scene, self.straight = found, found.scene, found.straight
        self.offer(found.table, self.sum_up(found.table, found.notes) if found.table else found.notes[0])
        if self.isVisible():
            self._show()

    def _show(self) -> None:
        assert self.scene is not None
        if self._pixmap is None or self._pixmap[0] is not self.scene:
            self._pixmap = self.scene, pixmap(self.scene.field.colours)
        field, found = self.scene.field, self.found
        size = field.to_mm(np.array([[field.colours.shape[1] - 0.5, field.colours.shape[0] - 0.5]]))[0]
        sketch = Sketch(self._pixmap[1], (field.left, float(size[1]), float(size[0]), field.top))
        if found is not None:
            lowered = found.outline is not found.seen
            sketch.lines = [("true", found.outline, True)] * lowered + [("outline", found.seen, True)]
            if lowered:
                middle = (field.left + float(size[0])) / 2
                sketch.words.append((middle, float(size[1]) - 4, "full: as seen · dots: as it truly lies"))
        sketch.lines += [("keep" if s.keeps else "remove", s.points, False) for s in self.strokes]
        if found is not None and self.comb.isChecked():
            sketch.lines += [("comb", tooth, False) for tooth in comb(found.outline)]
        self.easel.units = self.bench.job.units
        self.easel.show_sketch(sketch)


class PhotoWay(Pictured):
    """A photo of the object on the printed mat."""

    way = Way.PHOTO
    called = "Photo"
    asks = (
        "Print the measuring mat, lay the object on it, and photograph it from above.\n"
        "Give its height by caliper: what stands up is seen too far out."
    )

    def ask_for(self) -> None:
        row = QHBoxLayout()
        self.mats = {}
        for paper in ("a4", "letter", "a3"):
            button = QPushButton(paper.upper() if paper != "letter" else "Letter")
            button.setProperty("plain", "false")
            button.setAccessibleName(f"Write the mat for {paper}")
            button.clicked.connect(lambda _, p=paper: self._ask_mat(p))
            row.addWidget(button)
            self.mats[paper] = button
        row.addStretch()
        self.form.addRow("print the mat", row)
        self.finishing("height", "over the mat, by caliper; or places and heights: 0: 4.5, 128: 4.5, 140: 22")
        self.round = self.check("sides are round, not upright", False, self.again)
        self.form.addRow("", self.round)
        self.rule = self.length_field("rule", "100mm", "what the printed 100 mm measure", self.again)
        self.distance = self.length_field("camera at", "", "its distance, where the photo names no lens", self.again)
        self.lens = self.length_field("lens", "", "its distortion k1, k2, p1, p2, where it is known", self.again)
        self._looked: tuple[Path, float, float | None, tuple[float, ...], Seen] | None = None

    def _ask_mat(self, paper: str) -> None:
        found, _ = QFileDialog.getSaveFileName(self, "Write the mat", f"mat-{paper}.pdf", "PDF (*.pdf)")
        if found:
            try:
                mat_sheet.write(Path(found), paper)
            except InputError as error:
                self.refused.emit(str(error))
                return
            self.said.setText(f"The mat is in {Path(found).name}. Print it at 100 % and measure its rule.")

    def demo_picture(self) -> Path:
        return kept("whetstone.jpg", captures.photo())

    def demo_sizes(self) -> None:
        self.thick.setText(self.in_units(captures.PHOTO_HEIGHT))

    def again(self) -> None:
        path = self.path
        if path is None:
            return
        try:
            text = self.thick.text().strip()
            if not text:
                raise InputError("it is blank", "height", "give the object's height over the mat, by caliper")
            rise = Rise.parse(text, self.bench.job.units.bare, self.round.isChecked())
            finish, rule, distance = self.finish(), self.needed(self.rule), self.length(self.distance)
            bent = distortion(self.lens.text(), "lens")
        except InputError as error:
            self.offer(None, str(error))
            return
        looked = self._looked
        strokes, pulls = tuple(self.strokes), tuple(self.pulls)

        def work(tell: Tell) -> Found:
            if looked is not None and looked[:4] == (path, rule, distance, bent):
                seen = looked[4]
            else:
                tell("reading the photo", 0.02)
                picture = photos.read(path)
                seen = look(picture.pixels, picture.lens(None, distance, bent), rule, tell)
                self.looked.emit(seen.scene)
            made = trace(seen, rise, strokes, pulls, tell=tell)
            outline = made.outline
            thick = rise.top - rise.foot
            at = rise.along if len(thick) > 1 else None
            table, straight, notes = finished(outline, finish, thick, Capture(Way.PHOTO, made.error), at)
            self._looked = path, rule, distance, bent, seen
            told = f"camera {made.view.eye[2]:.0f} mm up, tilted {made.view.tilt:.0f}°"
            return Found(seen.scene, made.seen, outline, straight, table, (*notes, told, *made.notes))

        self.labour.start(work)


class ScanWay(Pictured):
    """A flat scan of the object or of its traced card."""

    way = Way.SCAN
    called = "Scan"
    asks = (
        "Scan the object, or the card it was traced on, with bare paper all round.\n"
        "Where the scan does not say how fine it is, draw along a ruler in it."
    )
    hands = (Hand.MOVE, Hand.KEEP, Hand.REMOVE, Hand.PULL, Hand.RULER)

    def ask_for(self) -> None:
        self.finishing("thickness", "by caliper")
        self.dpi = self.length_field("dpi", "", "dots to the inch, where the scan does not say", self.again)
        self.ruler = self.length_field("ruler", "100mm", "the length you draw along the ruler", lambda: None)
        self._scale: float | None = None  # px to the mm, from a ruler
        self._read: tuple[Path, Picture, float, Scene] | None = None

    def demo_picture(self) -> Path:
        return kept("gauge.png", captures.scan())

    def demo_sizes(self) -> None:
        self.thick.setText(self.in_units(captures.SCAN_THICKNESS))

    def open(self, path: Path) -> None:
        self._scale = None
        super().open(path)

    def ruled(self, points: Array) -> None:
        """Set the scale from a line drawn along the ruler in the scan."""
        assert self._read is not None
        try:
            used = self._read[2]
            self._scale = scan.ruled(points[0] * used, points[-1] * used, self.needed(self.ruler))
        except InputError as error:
            self.refused.emit(str(error))
            return
        self.dpi.setText(f"{self._scale * INCH:.0f}")
        self.again()

    def again(self) -> None:
        path = self.path
        if path is None:
            return
        said = self.dpi.text().strip()
        try:
            typed = float(said) if said else None
            thick, finish = self.needed(self.thick), self.finish()
        except InputError as error:
            self.offer(None, str(error))
            return
        except ValueError:
            self.offer(None, f"dpi: '{said}' is not a number; give dots to the inch.")
            return
        read, scale = self._read, self._scale
        strokes, pulls = tuple(self.strokes), tuple(self.pulls)

        def work(tell: Tell) -> Found:
            tell("reading the scan", 0.1)
            picture = read[1] if read is not None and read[0] == path else photos.read(path)
            dpi = typed or picture.dpi
            used = scale or photos.pixels_per_mm(dpi or GUESSED)
            tell("telling the object from the paper", 0.4)
            if read is not None and (read[0], read[2]) == (path, used):
                scene = read[3]
            else:
                scene = scan.look(picture.pixels, used)
                self.looked.emit(scene)
            self._read = path, picture, used, scene
            edge, error = scan.trace(picture.pixels, used, scene, strokes)
            tell("measuring", 0.9)
            outline = pulled(edge, pulls)
            table, straight, notes = finished(outline, finish, thick, Capture(Way.SCAN, error))
            known = scale is not None or dpi is not None
            return Found(scene, outline, outline, straight, table if known else None, notes if known else (UNKNOWN,))

        self.labour.start(work)
