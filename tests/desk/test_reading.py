"""The guide inside the window, and the printer measured and corrected."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import pdfplumber
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from tailor.desk import guide
from tailor.desk.pages import PICKING
from tailor.desk.stages import STAGES
from tailor.desk.window import Window
from tailor.files import printer, state

Key = Qt.Key


def top_heading(shown: Window) -> str:
    """The heading that stands at the top of what is read."""
    text = shown.pages.guide.text
    at = text.cursorForPosition(text.viewport().rect().topLeft()).block()
    while at.isValid() and not at.blockFormat().headingLevel():
        at = at.next()
    return at.text()


def test_the_guide_opens_at_the_stage_and_gives_the_bench_back(shown: Window, settle: Callable[[], None]) -> None:
    headings = re.findall(r"^## (.+)$", guide.TEXT.read_text(), re.MULTILINE)
    assert {stage.guide for stage in STAGES.values()} | {guide.BEGINNING, PICKING} <= set(headings)
    for stage in STAGES.values():
        shown.show_stage(stage.name)
        QTest.keyClick(shown, Key.Key_F1)
        assert shown.pages.guide.isVisible()
        assert top_heading(shown) == stage.guide
        QTest.keyClick(QApplication.focusWidget(), Key.Key_Escape)
        assert not shown.pages.guide.isVisible()
        assert shown.board.stage is stage
    shown.pages.show_shelf()
    QTest.keyClick(shown, Key.Key_F1)
    assert shown.pages.guide.headings.currentItem().text() == guide.BEGINNING
    QTest.keyClick(shown.pages.guide.headings, Key.Key_Down)  # the headings are gone through by keys
    assert top_heading(shown) == headings[1]
    QTest.keyClick(shown, Key.Key_F1)
    assert shown.pages.on_shelf


def test_the_printer_is_measured_and_what_is_printed_is_corrected(
    shown: Window, qtbot, monkeypatch: pytest.MonkeyPatch, tmp_path: Path
) -> None:
    monkeypatch.setattr("tailor.desk.paperwork.shutil.which", lambda _: None)
    shown.acts["printer"].trigger()
    strip = shown.calibrating
    assert strip.isVisible()
    shown.paperwork.print_calibration()
    assert (state.folder() / "calibration.pdf").exists()
    for texts, said in ((("145", "200"), "the driver scales the page"), (("a bit", "200"), "not a length")):
        for field, text in zip(strip.fields, texts, strict=True):
            field.setText(text)
        QTest.keyClick(strip.fields[0], Key.Key_Return)
        assert said in shown.notice.said.text()
        assert strip.isVisible()
    for field, text in zip(strip.fields, ("149.4", "20.08 cm"), strict=True):
        field.setText(text)
    QTest.keyClick(strip.fields[1], Key.Key_Return)
    assert not strip.isVisible()
    assert printer.known() == printer.measured(149.4, 200.8)
    with qtbot.waitSignal(shown.written, timeout=20000) as written:
        shown.acts["print"].trigger()
    with pdfplumber.open(written.args[0][0]) as found:
        assert "Corrected for this printer" in found.pages[0].extract_text()
    with qtbot.waitSignal(shown.written, timeout=20000) as written:
        shown.paperwork.export(tmp_path)
    with pdfplumber.open(written.args[0][0]) as found:
        assert "Corrected" not in found.pages[0].extract_text()
