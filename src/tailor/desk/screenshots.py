"""Pictures of every main view, from demo data: python -m tailor.desk.screenshots FOLDER [WIDTH HEIGHT]."""

from __future__ import annotations

import sys
import tempfile
from pathlib import Path

from PyQt6.QtTest import QTest

from tailor.desk.measures import STAGES
from tailor.desk.start import application, window


def main(folder: Path, width: int = 1280, height: int = 800) -> None:
    """Write one picture of each stage, and of the draft made up."""
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
    shown.close()


if __name__ == "__main__":
    import os

    with tempfile.TemporaryDirectory() as state:
        os.environ["XDG_STATE_HOME"] = state  # pictures show no one's own work
        main(Path(sys.argv[1]), *map(int, sys.argv[2:4]))
