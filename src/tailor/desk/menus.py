"""The menus of the window, and its acts by their names: what can be done, and by which keys."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtGui import QAction, QKeySequence
from PyQt6.QtWidgets import QMenu

from tailor.core.draft.views.seen import Eye
from tailor.core.job import MOCK_UPS
from tailor.desk.constructions import Constructions

if TYPE_CHECKING:
    from tailor.desk.window import Window


class Menus:
    """acts: all that can be done, by name. job, look: what is done with the job as a whole, and how it is looked at."""

    def __init__(self, window: Window, paper: str) -> None:
        self.acts: dict[str, QAction] = {}
        self.papers: dict[str, QAction] = {}
        self._window = window
        self.look = self._look_menu()
        self.job = self._job_menu(paper)

    def _act(self, key: str, text: str, shortcut: str, deed: Callable[[], object]) -> QAction:
        action = QAction(text, self._window)
        action.setShortcut(QKeySequence(shortcut))
        action.setToolTip(f"{text} ({shortcut})")
        action.triggered.connect(lambda _=False: deed())
        self._window.addAction(action)
        self.acts[key] = action
        return action

    def _job_menu(self, paper: str) -> QMenu:
        window, act = self._window, self._act
        menu = QMenu(window)
        menu.addAction(act("shelf", "The shelf", "F2", window.pages.show_shelf))
        menu.addAction(act("orders", "Orders", "F3", lambda: window.pages.turn_to(window.rooms.orders)))
        menu.addAction(
            act("stockroom", "Leather and stock", "F4", lambda: window.pages.turn_to(window.rooms.stockroom))
        )
        menu.addAction(act("habits", "What you go by", "F5", lambda: window.pages.turn_to(window.rooms.habits)))
        menu.addAction(act("measure", "New, to be measured", "Ctrl+Shift+N", lambda: window.begin_anew("Block")))
        menu.addAction(act("new", "New from a station table …", "Ctrl+N", window.filing.ask_new))
        menu.addAction(act("panels", "Panels of an old one …", "Ctrl+U", window.filing.ask_panels))
        menu.addAction(act("open", "Open …", "Ctrl+O", window.filing.ask_open))
        recent = menu.addMenu("Recent")
        assert recent is not None
        recent.aboutToShow.connect(lambda: window.filing.list_recent(recent))
        menu.addSeparator()
        menu.addAction(act("save", "Save", "Ctrl+S", window.filing.save))
        menu.addAction(act("save as", "Save as …", "Ctrl+Shift+S", window.filing.ask_save_as))
        menu.addSeparator()
        menu.addAction(act("export", "Write the pattern …", "Ctrl+E", window.ask_export))
        menu.addAction(act("print", "Print at true scale", "Ctrl+P", window.paperwork.print_))
        menu.addAction(act("strip", "Print the marking strip", "Ctrl+M", window.paperwork.print_strip))
        mock_up = menu.addMenu("Print a mock-up")
        for material in MOCK_UPS:
            said = "Foam as thick as the leather" if material == "foam" else material.capitalize()
            mock_up.addAction(said, lambda m=material: window.paperwork.print_mock_up(m))
        menu.addAction(act("printer", "Printer …", "Ctrl+Shift+P", window.calibrating.ask))
        menu.addAction(act("note", "Note a correction", "Ctrl+T", lambda: window.board.note_here()))
        menu.addAction(act("pick", "Choose a construction", "Ctrl+G", window.middle.pick))
        menu.addAction(act("right", "Put all right", "Ctrl+Shift+R", lambda: window.ledger.put_all_right()))
        self.constructions = Constructions(window.bench, window)
        menu.addMenu(self.constructions)
        papers = menu.addMenu("Paper")
        for name, said in (("a4", "A4"), ("letter", "Letter")):
            action = QAction(said, window, checkable=True, checked=name == paper)
            action.triggered.connect(lambda _, n=name: window.set_paper(n))
            papers.addAction(action)
            self.papers[name] = action
        tray = act("tray", "Call from the tray once closed", "Ctrl+Shift+Y", lambda: None)
        tray.setCheckable(True)
        tray.setChecked(window.calling.wished)
        tray.toggled.connect(self._tray)
        menu.addAction(tray)
        menu.addSeparator()
        menu.addAction(act("guide", "The maker’s guide", "F1", window.pages.read_guide))
        menu.addAction(act("close", "Close the window", "Ctrl+Q", window.close))
        act("undo", "Undo", "Ctrl+Z", window.pages.undo)
        act("redo", "Redo", "Ctrl+Shift+Z", window.pages.redo)
        act("hand", "Right hand", "Ctrl+H", window.flip_hand)
        act("lay", "Lay flat", "Ctrl+L", lambda: window.board.lay(not window.board.laid_flat))
        act("fit", "Fit", "Ctrl+0", window.board.fit)
        return menu

    def _tray(self, wanted: bool) -> None:
        if said := self._window.calling.wish(wanted):
            self._window.notice.say(said)

    def _look_menu(self) -> QMenu:
        window, act = self._window, self._act
        looks = QMenu(window)
        for eye, key in zip(Eye, ("Ctrl+1", "Ctrl+2", "Ctrl+3"), strict=True):
            looks.addAction(act(f"look {eye}", f"Relief {eye}", key, lambda e=eye: window.board.lay(False, e)))
        looks.addAction(act("round", "In the round", "Ctrl+4", window.middle.turn_round))
        looks.addSeparator()
        strain = act("strain", "Strain in the leather", "Ctrl+K", lambda: None)
        strain.setCheckable(True)
        strain.toggled.connect(window.board.show_strain)
        looks.addAction(strain)
        looks.addAction(act("hold", "Hold this draft to compare", "Ctrl+B", window.held.toggle))
        looks.addAction(act("ways out", "Ways out for the leather", "Ctrl+J", window.ways_out.ask))
        return looks
