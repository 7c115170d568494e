"""Writing and printing the pattern from the window."""

from __future__ import annotations

from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot

from tailor.desk.window import Window


def test_the_pattern_is_written_off_the_windows_thread(shown: Window, qtbot: QtBot, tmp_path: Path) -> None:
    with qtbot.waitSignal(shown.written, timeout=20000):
        shown.paperwork.export(tmp_path / "out")
    assert (tmp_path / "out" / "pattern.pdf").stat().st_size > 10_000
    assert "Pattern written" in shown.notice.said.text()


def test_print_hands_the_pdf_to_the_printer_or_says_where_it_lies(
    shown: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    printer = tmp_path / "bin" / "lp"
    printer.parent.mkdir()
    printer.write_text(f'#!/bin/sh\necho "$@" > {tmp_path}/asked\n')
    printer.chmod(0o755)
    monkeypatch.setenv("PATH", f"{printer.parent}:/usr/bin:/bin")
    with qtbot.waitSignal(shown.written, timeout=20000):
        shown.paperwork.print_()
    told = shown.notice.said.text
    qtbot.waitUntil(lambda: "Sent to the printer" in told(), timeout=10000)
    assert "print-scaling=none" in (tmp_path / "asked").read_text()
    shown.acts["strip"].trigger()
    qtbot.waitUntil(lambda: "marking-strip.pdf" in (tmp_path / "asked").read_text(), timeout=20000)
    printer.write_text("#!/bin/sh\nexit 1\n")
    shown.paperwork.print_()
    qtbot.waitUntil(lambda: "No printer answers" in told(), timeout=20000)
    printer.write_text("#!/bin/sh\nsleep 60\n")  # one that never answers holds nothing up
    shown.paperwork.print_()
    qtbot.waitUntil(lambda: told().startswith("Sending"), timeout=20000)
    shown.notice.offer("Cancel").click()
    assert told().startswith("Not printed. The pattern lies in")


def test_a_mock_up_is_not_written_while_the_draft_cannot_be_made(shown: Window, qtbot: QtBot, settle) -> None:
    shown.bench.type("mouth.y", "2mm", "mouth")
    settle()
    assert shown.bench.error is not None
    with qtbot.assertNotEmitted(shown.written, wait=300):
        shown.paperwork.print_mock_up("foam")
    assert "cannot be written" in shown.notice.said.text()
