"""One window on a real X display: a virtual one, driven by real key presses of the toolkit."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

SCRIPT = """
import sys
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLineEdit
from tailor.desk.start import application, window

app = application()
assert app.platformName() == "xcb", app.platformName()
shown = window(demo_name="eaves-blade")
shown.resize(1280, 800)
shown.show()
assert QTest.qWaitForWindowActive(shown) or QTest.qWaitForWindowExposed(shown)
tag = shown.board.tags["seam.standoff"]
tag.setFocus()
QTest.keyClick(tag, Qt.Key.Key_Return)
typing = tag.findChild(QLineEdit, "typing")
QTest.keyClicks(typing, "10mm")
QTest.keyClick(typing, Qt.Key.Key_Return)
for _ in range(750):  # the drafting process has to begin
    if shown.bench.fresh:
        break
    QTest.qWait(20)
assert shown.bench.made.value("seam.standoff") == 10.0
picture = shown.screen().grabWindow(shown.winId())
assert picture.width() == 1280 and picture.save(sys.argv[1])
shown.close()
print("done")
"""


@pytest.mark.skipif(shutil.which("xvfb-run") is None, reason="make setup installs xvfb")
def test_the_window_works_on_a_real_display(tmp_path: Path) -> None:
    picture = tmp_path / "window.png"
    done = subprocess.run(
        ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24", sys.executable, "-c", SCRIPT, str(picture)],
        env={**os.environ, "QT_QPA_PLATFORM": "xcb", "XDG_STATE_HOME": str(tmp_path),
             "XDG_DATA_HOME": str(tmp_path)},
        capture_output=True, text=True, timeout=120, check=False,
    )  # fmt: skip
    assert done.stdout.strip() == "done", done.stderr
    assert picture.stat().st_size > 20_000
