"""The apprentice's notes: every tag and every step has one, and F1 opens it with its picture."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PyQt6.QtCore import Qt, QUrl
from PyQt6.QtGui import QImage, QTextDocument
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from tailor import demo
from tailor.core.bench.rates import Rates
from tailor.core.bench.schools import DYES, School
from tailor.core.keys import MEASURES
from tailor.core.notes.notes import NOTES, of_measure, of_step
from tailor.core.notes.picture import HIGH, WIDE
from tailor.core.shop.workload import steps_of
from tailor.desk.readings import reading, why
from tailor.desk.window import Window

Key = Qt.Key


def test_every_measure_and_every_step_has_its_reason() -> None:
    assert [name for name in MEASURES if of_measure(name) is None] == []
    keys = {doing.key for name in demo.names() for dye in DYES
            for doing in steps_of(demo.job(name), Rates(), School("solvent", dye)).doings}  # fmt: skip
    assert [key for key in keys if of_step(key) is None] == []
    assert len({note.title for note in NOTES}) == len(NOTES)
    for note in NOTES:
        assert all(-1 <= x <= WIDE + 1 and -1 <= y <= HIGH + 1 for each in note.picture for x, y in each.points), note


@pytest.mark.parametrize(
    ("name", "word"),
    [
        ("leather.fold_radius", "fold needs length"), ("welt.thickness", "edge and thread"), ("welt.skive", "thinned"),
        ("stitch.count", "counted"), ("gusset.ease", "gusset"), ("inside.across", "room"), ("loop.play", "loop"),
        ("patch2.depth", "pocket"), ("mould.stretch", "wet"), ("corner.boxed", "boxed"),
    ],
)  # fmt: skip
def test_a_measure_has_the_note_that_is_of_it(name: str, word: str) -> None:
    note = of_measure(name)
    assert note is not None
    assert word in note.title.lower()


def test_f1_on_a_tag_opens_its_note_with_its_picture_and_words_are_found(
    shown: Window, settle: Callable[[], None], qtbot: QtBot
) -> None:
    settle()
    shown.show_stage("Leather")
    shown.board.tags["leather.thickness"].setFocus()
    QTest.keyClick(shown, Key.Key_F1)
    guide = shown.pages.guide
    assert guide.isVisible()
    item = guide.headings.currentItem()
    assert item is not None
    assert item.text() == "Why thickness sets everything"
    document = guide.text.document()
    assert document is not None
    number = next(n for n, note in enumerate(NOTES) if note.title == item.text())
    image = document.resource(QTextDocument.ResourceType.ImageResource.value, QUrl(f"note:{number}"))
    assert isinstance(image, QImage)
    colours = {image.pixel(x, y) for x in range(0, image.width(), 7) for y in range(0, image.height(), 7)}
    assert len(colours) >= 2  # card, and leather on it
    guide.sought.setText("bunches")
    there = [guide.headings.item(n) for n in range(guide.headings.count())]
    left = [each.text() for each in there if each is not None and not each.isHidden()]
    assert "Why a gusset is cut to its length" in left
    assert len(left) < 6
    QTest.keyClick(guide, Key.Key_Escape)
    assert not guide.isVisible()
    made, job = shown.bench.made, shown.bench.job
    assert made is not None
    assert "F1: why a fold needs length" in why(reading(job, made, MEASURES["leather.fold_radius"]), job.units)
