"""Calling: what waited is said on the desktop too, while the window is not looked at."""

from __future__ import annotations

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication, QSystemTrayIcon, QWidget

LONG = 15_000  # ms that it is shown


class Calling(QObject):
    """Says it by a sign in the tray, where the desktop has one; and the window asks to be looked at."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._tray: QSystemTrayIcon | None = None
        self.said = ""  # what was called last

    def call(self, message: str) -> None:
        if self._window.isActiveWindow():
            return
        self.said = message
        QApplication.alert(self._window)
        if QSystemTrayIcon.isSystemTrayAvailable():
            if self._tray is None:
                self._tray = QSystemTrayIcon(QApplication.windowIcon(), self)
                self._tray.activated.connect(lambda _: self._window.activateWindow())
            self._tray.show()
            self._tray.showMessage("Tailor", message, QSystemTrayIcon.MessageIcon.NoIcon, LONG)
