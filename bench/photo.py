"""A 12-megapixel photo, against the bare OpenCV calls that decode it, detect its markers and warp it."""

from __future__ import annotations

import time
from collections.abc import Callable

import cv2
import numpy as np

from tailor.core.carried.photo.mat import DICTIONARY, MATS
from tailor.core.carried.photo.parallax import Rise
from tailor.core.carried.photo.segment import GRAIN
from tailor.core.carried.photo.trace import look, trace
from tailor.core.carried.photo.view import NOMINAL, Lens
from tailor.demo.captures import rounded
from tailor.standins.camera import Shot, photograph, prism


def longest_wait() -> float:
    """The longest the window had to wait while a photo was traced beside it, s."""
    from PyQt6.QtCore import QTimer
    from PyQt6.QtWidgets import QApplication

    from tailor.desk.capture.labour import Labour

    app = QApplication.instance() or QApplication([])
    _, whole = works()
    labour, ticks = Labour(), [time.perf_counter()]
    timer = QTimer(interval=2)
    timer.timeout.connect(lambda: ticks.append(time.perf_counter()))
    timer.start()
    labour.start(lambda tell: whole())
    while labour.busy:
        app.processEvents()
    return float(np.diff(ticks).max())


def works() -> tuple[Callable[[], object], Callable[[], object]]:
    """The floor, and the whole trace from the bytes of the photo."""
    shot = Shot(size=(4000, 3000), tilt=9, focal=28)
    photo = np.frombuffer(
        photograph([prism(rounded(50, 150, 4) + np.array([105, 150]), 25, (80, 60, 44))], shot), np.uint8
    )
    left, bottom, right, top = MATS["a4"].field
    size = round((right - left) * GRAIN), round((top - bottom) * GRAIN)
    corners = np.array([[0, 0], [size[0], 0], [size[0], size[1]], [0, size[1]]], dtype=np.float32)
    finder = cv2.aruco.ArucoDetector(cv2.aruco.getPredefinedDictionary(DICTIONARY))

    def floor() -> object:
        image = cv2.imdecode(photo, cv2.IMREAD_COLOR)
        found, _, _ = finder.detectMarkers(cv2.cvtColor(image, cv2.COLOR_BGR2GRAY))
        bend = cv2.getPerspectiveTransform(np.concatenate([f[0][:1] for f in found[:4]]).astype(np.float32), corners)
        return cv2.warpPerspective(image, bend, size)

    def whole() -> object:
        image = cv2.imdecode(photo, cv2.IMREAD_COLOR)
        lens = Lens(Lens.equivalent(28, *shot.size), NOMINAL)
        return trace(look(image, lens), Rise.level(25.0))

    return floor, whole
