"""What lies open in the window's log."""

from __future__ import annotations

from tailor.core.log.entry import Entry
from tailor.desk.logbook import Logbook


def entry(book: Logbook) -> Entry:
    assert book.entry is not None
    return book.entry
