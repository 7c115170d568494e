"""Calling: what waited is said on the desktop too, while the window is not looked at; from the tray once it is closed,
if the maker wants that.
"""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QApplication, QMenu, QSystemTrayIcon, QWidget

from tailor.core.errors import InputError
from tailor.files import atomic, state

LONG = 15_000  # ms that it is shown
STAYS = "stays-in-the-tray"  # a file that is there while the maker wants it
IN_TRAY = "The window is closed. What waits will call from here; click to open the bench again."


class Calling(QObject):
    """Says it by a sign in the tray, where the desktop has one; and the window asks to be looked at."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self._window = window
        self._tray: QSystemTrayIcon | None = None
        self.said = ""  # what was called last
        self.away = False  # the window is closed, and the sign in the tray is all there is
        self.ending = False  # it is closed for good

    @staticmethod
    def _wish() -> Path:
        return state.folder() / STAYS

    @property
    def wished(self) -> bool:
        """Whether the maker wants to be called from the tray once the window is closed."""
        return self._wish().exists()

    @property
    def stays(self) -> bool:
        """Whether the window is to stay in the tray once it is closed: it is wished for, and there is one."""
        app = QApplication.instance()
        leaving = self.ending or (isinstance(app, QApplication) and app.isSavingSession())  # who logs out does not wait
        return not leaving and self.wished and QSystemTrayIcon.isSystemTrayAvailable()

    def wish(self, wanted: bool) -> str:
        """Note that the maker wants it, or does not; what there is to say of it."""
        try:
            if wanted:
                atomic.write(self._wish(), b"")
            else:
                self._wish().unlink(missing_ok=True)
        except (InputError, OSError) as error:
            return f"It cannot be noted for the next time: {error}"
        if wanted and not QSystemTrayIcon.isSystemTrayAvailable():
            return "This desktop has no tray to call from; leave the window open, or small."
        return "Closed while something waits, Tailor stays in the tray and calls." if wanted else ""

    def stay(self) -> None:
        """Close the window, and go on in the tray."""
        self.away = True
        QApplication.setQuitOnLastWindowClosed(False)
        self._window.hide()
        self._say(IN_TRAY)

    def back(self) -> None:
        """Open the window again."""
        if self.away:
            self.away = False
            QApplication.setQuitOnLastWindowClosed(True)
            self._window.show()
        self._window.raise_()
        self._window.activateWindow()

    def end(self) -> None:
        """Be done, whatever waits."""
        if self.away:
            self.back()
        self.ending = True
        self._window.close()

    def call(self, message: str) -> None:
        if self._window.isActiveWindow() and not self.away:
            return
        self.said = message
        QApplication.alert(self._window)
        self._say(message)

    def _say(self, message: str) -> None:
        if not QSystemTrayIcon.isSystemTrayAvailable():
            return
        if self._tray is None:
            self._tray = QSystemTrayIcon(QApplication.windowIcon(), self)
            self._tray.activated.connect(lambda _: self.back())
            self._menu = QMenu()
            self._menu.addAction("Open the bench", self.back)
            self._menu.addAction("End Tailor", self.end)
            self._tray.setContextMenu(self._menu)
        self._tray.show()
        self._tray.showMessage("Tailor", message, QSystemTrayIcon.MessageIcon.NoIcon, LONG)
