"""The counter: the shop's book at the window, opened, read and changed off its thread, one thing after another."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import QObject, QThreadPool, pyqtSignal

from tailor.core.errors import InputError
from tailor.files import state

if TYPE_CHECKING:
    from tailor.core.job import Job
    from tailor.core.shop.shop import Shop
    from tailor.files.shop_book.book import Book, Shelved

OF_THE_DEMO = "the shop of the demo"  # laid in anew each day, until a hand changes it
DEMO = "demo.tailorshop"  # the demo's own book, in the folder of state


class Counter(QObject):
    """The shop as its book has it.

    came: the shop is read, or read anew. found: jobs that were looked for. refused: why something could not be done.
    said: what was done. answered: a question, by its name. demo: it is the demo's, and begins with its
    shop. shop: None until it is read.
    """

    came = pyqtSignal()
    refused = pyqtSignal(str)
    said = pyqtSignal(str)
    found = pyqtSignal(list)
    answered = pyqtSignal(str, object)
    _done = pyqtSignal(object, object)
    _came_upon = pyqtSignal(str, list)
    _answer = pyqtSignal(str, object, object)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.demo = False
        self.shop: Shop | None = None
        self.steps = ("", "")  # what would be undone, and done again
        self.read_only = ""
        self._book: Book | None = None
        self._asked = 0  # deeds under way
        self._questions = 0  # those among them that change nothing
        self._pool = QThreadPool(self)
        self._pool.setMaxThreadCount(1)  # one after another, in the order they are asked
        self._text = ""  # that is looked for
        self._done.connect(self._take)
        self._came_upon.connect(self._hear)
        self._answer.connect(self._told)

    @property
    def busy(self) -> bool:
        return self._asked > 0

    @property
    def changing(self) -> bool:
        """Whether something is under way besides questions."""
        return self._asked > self._questions

    @property
    def place(self) -> Path:
        """Where the book lies."""
        return state.folder() / DEMO if self.demo else state.shop_book()

    def open_if_there(self) -> None:
        """Open the book if there is one already: then what a job costs is told without being asked."""
        if self.demo or self.place.exists():
            self.open()

    def open(self) -> None:
        """Open the book and read it, unless it is open."""
        if self._book is None and not self.busy:
            self._do(lambda book: "")

    def put(self, said: str, *changes: tuple[Any, Any], done: str = "") -> None:
        """Change the shop; changes as Book.put has them. done: is said once it is."""

        def put(book: Book) -> str:
            book.put(said, *changes)
            return done

        self._do(put)

    def undo(self) -> None:
        self._do(lambda book: _told(book.undo(), "undone", "nothing of the shop is left to undo"))

    def redo(self) -> None:
        self._do(lambda book: _told(book.redo(), "done again", "nothing of the shop is left to be done again"))

    def shelve(self, job: Job, path: Path) -> None:
        """Keep a copy of a job that was saved, to be found again."""

        def shelve(book: Book) -> str:
            book.shelve((job, path))
            return ""

        self._do(shelve, quiet=True)

    def find(self, text: str) -> None:
        """Look among everything that was saved; what is typed meanwhile is looked for instead."""
        self._text = text

        def run() -> None:
            if self._text == text:
                self._came_upon.emit(text, self._opened().find(text))
            self._done.emit(None, None)

        self._in_turn(run, lambda error: self._done.emit(None, error))

    def ask(self, what: str, question: Callable[[Book], object]) -> None:
        """Ask the book something, after all that was asked before; `answered` has what it was, and the answer."""

        self._questions += 1
        self._in_turn(
            lambda: self._answer.emit(what, question(self._opened()), None),
            lambda error: self._answer.emit(what, None, error),
        )

    def _told(self, what: str, answer: object, error: InputError | None) -> None:
        self._asked -= 1
        self._questions -= 1
        if error is not None:
            self.refused.emit(str(error))
        else:
            self.answered.emit(what, answer)

    def _hear(self, text: str, shelved: list[Shelved]) -> None:
        if text == self._text:
            self.found.emit(shelved)

    def finish(self) -> None:
        """Wait until all that was asked is done."""
        self._pool.waitForDone()

    def _do(self, deed: Callable[[Book], str], quiet: bool = False) -> None:
        """Have something done with the book. quiet: nobody asked for it, so that nobody is told where it cannot be."""

        def run() -> None:
            book = self._opened()
            said = deed(book)
            self._done.emit((book.shop(), book.steps(), book.read_only, said), None)

        self._in_turn(run, lambda error: self._done.emit(self._anew(), None if quiet else error))

    def _in_turn(self, run: Callable[[], object], failed: Callable[[InputError], object]) -> None:
        """Have something run after all that was asked before. A fault of ours is told too, so that nobody waits for
        ever, and goes on to be written down.
        """

        def each() -> None:
            try:
                run()
            except InputError as error:
                failed(error)
            except Exception as fault:
                said = f"Tailor itself is at fault ({type(fault).__name__})"
                failed(InputError(said, "shop book", "nothing of it was changed; try another way"))
                raise

        self._asked += 1
        self._pool.start(each)

    def _opened(self) -> Book:
        """The book, on the pool's thread; a demo's begins with its shop."""
        if self._book is None:
            from tailor.demo.log import log
            from tailor.demo.shop import shop
            from tailor.files.shop_book import book

            self._book = book.Book.open(self.place)
            if self.demo and not self._book.read_only and self._book.steps()[0] in ("", OF_THE_DEMO):
                self._book.lay_in(
                    OF_THE_DEMO, shop(date.today()), log(date.today())
                )  # its orders are wanted some days from today
        return self._book

    def _anew(self) -> object:
        """The shop as it is, after something could not be done; None where it cannot be read."""
        try:
            return None if self._book is None else (self._book.shop(), self._book.steps(), self._book.read_only, "")
        except InputError:
            return None

    def _take(self, found: Any, error: InputError | None) -> None:
        self._asked -= 1
        if found is not None:
            self.shop, self.steps, self.read_only, said = found
            if said:
                self.said.emit(said)
            self.came.emit()
        if error is not None:
            self.refused.emit(str(error))


def _told(said: str, done: str, none: str) -> str:
    return f"{said}: {done}" if said else none
