"""The look, decided once: colours that each mean one thing, two shipped faces, and the style sheet."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon
from PyQt6.QtWidgets import QApplication

from tailor.files.dyes import GALL, INK, LOGWOOD, WALNUT

TEXT, HEAD = "Carlito", "Vollkorn"

BENCH = "#ddd2bd"  # the bench the work lies on
CARD = "#f6efdf"  # pattern card
PAPER = "#fffaf0"  # tags and slips
EDGE = "#b9a98a"  # the edge of a card or a tag
LEATHER = "#d0a06c"  # leather, cut through or seen
WELTED = "#a8794a"  # welt layers, cut through
STEEL = "#aab4b8"  # the object
FOAM = "#e7dfc2"  # padding
BOARD = "#8f8779"  # stiff board
LINED = "#c3a9a0"  # lining
ROOM = "#e3ebe6"  # clearance
STRAP = "#8a5c33"  # the strap along the foot
STRAP_DARK = "#5d3b1e"
STUFF = {"leather": LEATHER, "lining": LINED, "foam": FOAM, "board": BOARD, "belt": STRAP_DARK, "thing": STEEL}
PINNED = LOGWOOD
# By the value of a ruling: what it is coloured and what it says.
RULING = {"ok": "#3e6b3e", "look": "#8a6100", "stop": "#a3312a"}
SAID = {"ok": "holds", "look": "look", "stop": "stop"}
RULING_STOP = RULING["stop"]

HERE = Path(__file__).parent


def colour(name: str, alpha: int = 255) -> QColor:
    found = QColor(name)
    found.setAlpha(alpha)
    return found


def text(size: float = 10.5, bold: bool = False) -> QFont:
    font = QFont(TEXT)
    font.setPointSizeF(size)
    font.setBold(bold)
    return font


def heading(size: float = 13) -> QFont:
    font = QFont(HEAD)
    font.setPointSizeF(size)
    font.setWeight(QFont.Weight.DemiBold)
    return font


def put_up() -> None:
    """What the opening window needs: the heading face."""
    _face("Vollkorn-SemiBold.ttf")


def dress(app: QApplication) -> None:
    """Load the other shipped faces and set the look of the whole application, unless that is done."""
    if app.styleSheet() == SHEET and app.font() == text():
        return
    for file in ("Carlito-Regular.ttf", "Carlito-Bold.ttf"):
        _face(file)
    app.setWindowIcon(QIcon(str(HERE / "icons" / "tailor.svg")))
    app.setStyle("Fusion")
    app.setFont(text())
    app.setStyleSheet(SHEET)


def _face(file: str) -> None:
    QFontDatabase.addApplicationFont(str(HERE / "fonts" / file))


ICONS = (HERE / "icons").as_posix()
SHEET = f"""
QWidget {{ color: {INK}; }}
QMainWindow, QWidget#bench {{ background: {BENCH}; }}
QWidget#orders, QWidget#stockroom, QWidget#atwork, QWidget#logbook {{ background: {BENCH}; }}
QFrame#sheet, QScrollArea#sheet, QScrollArea#sheet > QWidget > QWidget {{ background: {PAPER}; }}
QFrame#sheet {{ border: 1px solid {EDGE}; border-radius: 4px; }}
QPushButton#heading {{ text-align: left; padding: 2px 6px; }}
QToolTip {{ background: {PAPER}; color: {INK}; border: 1px solid {EDGE}; padding: 4px; }}
QPushButton, QToolButton {{
  background: transparent; border: 1px solid transparent; border-radius: 4px; padding: 3px 9px; }}
QPushButton:hover, QToolButton:hover {{ background: {PAPER}; border-color: {EDGE}; }}
QPushButton:focus, QToolButton:focus {{ border: 2px solid {WALNUT}; }}
QPushButton:pressed, QPushButton:checked, QToolButton:checked {{ background: {PAPER}; border-color: {WALNUT}; }}
QPushButton:disabled, QToolButton:disabled {{ color: {GALL}; }}
QPushButton[plain="false"] {{ background: {PAPER}; border: 1px solid {EDGE}; }}
QPushButton[plain="false"]:checked {{ background: {WALNUT}; border-color: {WALNUT}; color: {PAPER}; }}
QPushButton[plain="false"]:focus {{ border: 2px solid {WALNUT}; }}
QToolButton::menu-indicator {{ image: none; }}
QLineEdit {{ background: {PAPER}; border: 1px solid {EDGE}; border-radius: 3px; padding: 1px 4px;
  selection-background-color: {WALNUT}; selection-color: {PAPER}; }}
QLineEdit:focus {{ border: 2px solid {WALNUT}; }}
QLineEdit#jobname {{ background: transparent; border: 1px solid transparent; }}
QLineEdit#jobname:hover {{ border-color: {EDGE}; background: {PAPER}; }}
QLineEdit#jobname:focus {{ border: 2px solid {WALNUT}; background: {PAPER}; }}
QComboBox {{ background: {PAPER}; border: 1px solid {EDGE}; border-radius: 3px; padding: 1px 6px; min-height: 20px; }}
QComboBox:focus {{ border: 2px solid {WALNUT}; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url({ICONS}/down.svg); width: 9px; height: 9px; }}
QComboBox QAbstractItemView {{ background: {PAPER}; border: 1px solid {EDGE}; selection-background-color: {CARD};
  selection-color: {INK}; }}
QProgressBar {{ background: {CARD}; border: 1px solid {EDGE}; border-radius: 3px; text-align: center; }}
QProgressBar::chunk {{ background: {ROOM}; }}
QSlider {{ min-height: 22px; border: none; background: transparent; }}
QSlider::groove:horizontal {{ background: {EDGE}; height: 3px; border-radius: 1px; }}
QSlider::sub-page:horizontal {{ background: {WALNUT}; height: 3px; border-radius: 1px; }}
QSlider::handle:horizontal {{ background: {PAPER}; border: 1px solid {WALNUT}; width: 12px; margin: -9px 0;
  border-radius: 4px; }}
QSlider::handle:horizontal:focus {{ border: 2px solid {WALNUT}; background: {CARD}; }}
QCheckBox:focus {{ text-decoration: underline; }}
QScrollArea, QScrollArea > QWidget > QWidget {{ background: {BENCH}; }}
QMenu {{ background: {PAPER}; border: 1px solid {EDGE}; padding: 4px; }}
QMenu::item {{ padding: 4px 26px 4px 14px; border-radius: 3px; }}
QMenu::item:selected {{ background: {CARD}; color: {INK}; border: 1px solid {WALNUT}; }}
QMenu::item:disabled {{ color: {GALL}; }}
QTableWidget {{ background: {PAPER}; gridline-color: {BENCH}; border: 1px solid {EDGE};
  selection-background-color: {CARD}; selection-color: {INK}; }}
QTableWidget::item {{ padding: 0; }}
QHeaderView::section {{ background: {CARD}; border: none; border-bottom: 1px solid {EDGE}; padding: 2px 4px; }}
QScrollBar:vertical {{ background: {CARD}; width: 9px; }}
QScrollBar::handle:vertical {{ background: {EDGE}; border-radius: 4px; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; width: 0; }}
"""
