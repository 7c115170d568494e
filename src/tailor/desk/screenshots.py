"""Pictures of every main view, from demo data: python -m tailor.desk.screenshots FOLDER [WIDTH HEIGHT]."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from tailor.desk.capture.wired import CaliperWay
from tailor.desk.measures import STAGES
from tailor.desk.start import application, window


def main(folder: Path, width: int = 1280, height: int = 800) -> None:
    """Write one picture of each stage, of the draft made up, and of ways of measuring."""
    app = application()
    shown = window(demo_name="eaves-blade")
    shown.resize(width, height)
    shown.show()
    folder.mkdir(parents=True, exist_ok=True)

    def shoot(name: str) -> None:
        QTest.qWait(80)
        app.processEvents()
        shown.grab().save(str(folder / f"{name}.png"))

    for stage in STAGES:
        shown.show_stage(stage)
        shoot(stage.lower())
    shown.show_stage("Draft")
    shown.board.lay(False)
    shoot("draft-made-up")
    shown.show_stage("Object")
    for way, demo in (("Tape", None), ("Photo", "picture"), ("Mesh", "solid")):
        shown.ways.turn_to(way)
        panel = shown.ways.panel(way)
        if demo is not None:
            next(b for b in panel.findChildren(QPushButton) if b.accessibleName() == f"Demo {demo}").click()
        while panel.table is None or panel.labour.busy:
            QTest.qWait(50)
        shoot(way.lower())
    shown.ways.turn_to("Caliper")
    caliper = shown.ways.panel("Caliper")
    assert isinstance(caliper, CaliperWay)
    assert caliper.session is not None
    for k, place in enumerate(caliper.session.places[:11]):
        caliper.hear(f"{place.expected + 0.03 * (-1) ** k:+08.2f} mm")
    shoot("caliper")
    shown.close()


if __name__ == "__main__":
    import os

    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state  # pictures show no one's own work
        main(Path(sys.argv[1]), *map(int, sys.argv[2:4]))
