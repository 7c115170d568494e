"""Tagged: measures on the board, at what they measure or on the list beside it: typed, nudged, pinned, asked why."""

from __future__ import annotations

import itertools
from collections.abc import Mapping, Sequence

import shapely
from PyQt6.QtCore import QObject, QRect, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from tailor.core.draft.draft import Draft
from tailor.core.job import Job
from tailor.core.measure import Kind, Measure, Theme
from tailor.desk.readings import Reading, nudged, reading, stands, told, why
from tailor.desk.readings import typed as as_typed
from tailor.desk.seating import Array, Box, Seat, seated
from tailor.desk.slip import Slip
from tailor.desk.tag import SMALL, Tag
from tailor.desk.workbench import Workbench

ROW, TWO, HEAD = SMALL, 2 * SMALL - 5, 17  # px: a line of the list, one of two lines, and what a theme is headed by
NARROWEST, WIDEST, SHARE = 140, 206, 0.25  # px that the list is wide, and at most of the board
EDGE = 10  # px from the edge of the board


class Tags(QObject):
    """The tags of a stage. refused: what was typed or dragged cannot be, and why.

    by_key: each tag by what it measures. all_shown: those too that few would set. seats: of the tags that stand at what
    they measure. headed: px from the top, and the theme, of each part of the list.
    """

    refused = pyqtSignal(str)
    wanted_all = pyqtSignal()

    def __init__(self, bench: Workbench, board: QWidget) -> None:
        super().__init__(board)
        self.bench, self._board = bench, board
        self.by_key: dict[str, Tag] = {}
        self.all_shown = False
        self.seats: dict[str, Seat] = {}
        self.headed: list[tuple[int, Theme]] = []
        self._begin = self._over = 0  # how many of the list were on its pages before, and how many come after
        self._asked: str | None = None
        self._order: list[Tag] = []
        self._slip = Slip(board)
        self._more = QPushButton(board)
        self._more.setFlat(True)
        self._more.setObjectName("more measures")
        self._more.clicked.connect(self.wanted_all)
        self._more.hide()

    def show(self, wanted: Sequence[Measure], job: Job) -> None:
        """Show the measures wanted, of the draft at hand and the job that it was made for."""
        made = self.bench.made
        if made is None:
            return
        if list(self.by_key) != [measure.name for measure in wanted]:
            self._make(wanted, made, job)
        error = self.bench.error
        settled = self.bench.fresh and error is None
        for measure in wanted:
            key, tag = measure.name, self.by_key[measure.name]
            if tag.typing:
                continue
            tag.show_reading(reading(job, made, measure), settled or error is not None)
            if error is not None and key in error.where:
                tag.say_wrong(told(str(error), self.bench.job.units))
            else:
                tag.clear_wrong()

    def _make(self, wanted: Sequence[Measure], made: Draft, job: Job) -> None:
        for tag in self.by_key.values():
            tag.hide()
            tag.deleteLater()
        self.by_key, self.seats, self._begin = {}, {}, 0
        for measure in wanted:
            tag = Tag(reading(job, made, measure), self._board)
            tag.typed.connect(self._typed)
            tag.nudge.connect(self._nudged)
            tag.pin.connect(self._pinned)
            tag.ask.connect(self._ask)
            tag.hide()
            self.by_key[measure.name] = tag

    def grow_stale(self) -> None:
        """What is shown is being worked out anew."""
        for tag in self.by_key.values():
            tag.show_reading(tag.reading, False)

    def _shown(self) -> dict[str, Tag]:
        """The tags that are to be seen: what is set first, what is pinned, and what is wrong; or all."""
        return {
            key: tag
            for key, tag in self.by_key.items()
            if self.all_shown or tag.reading.measure.first or tag.reading.pinned or tag.wrong or tag.typing
        }

    @property
    def width(self) -> int:
        """px that the list of those with no place on the drawing takes, its edges too; as if none had."""
        needed = [tag.sizeHint().width() for tag in self._shown().values()]
        most = min(WIDEST, max(round(SHARE * self._board.width()), NARROWEST))
        return min(max([*needed, NARROWEST]), most) + EDGE if needed else 0

    def place(
        self, spots: Mapping[str, tuple[float, float]], room: Box, taken: Sequence[Box], dots: Array,
        pieces: Sequence[shapely.Polygon],
    ) -> None:  # fmt: skip
        """Stand each tag at the spot that it is tied to, in the room there is for them, else on the list at its left.

        taken: boxes that stay free. dots: places that are only covered where they must be. pieces: what no string
        crosses that is not tied to it. All px.
        """
        shown = self._shown()
        sizes = {key: (float(t.sizeHint().width()), float(SMALL)) for key, t in shown.items()}
        inside = {k: at for k, at in spots.items() if k in shown and room[0] <= at[0] <= room[2]
                  and room[1] <= at[1] <= room[3]}  # fmt: skip
        self.seats = seated({k: (inside[k], sizes[k]) for k in inside}, room, taken, dots, pieces, self.seats)
        for key, seat in self.seats.items():
            left, top, right, bottom = map(round, seat.box)
            shown[key].stand(QRect(left, top, right - left, bottom - top), listed=False)
        listed = [tag for key, tag in shown.items() if key not in self.seats]
        self._over = self._list(listed[self._begin :], round(room[3]) - HEAD)
        for tag in listed[: self._begin]:
            tag.hide()
        hidden = len(self.by_key) - len(shown) + self._over
        for key, tag in self.by_key.items():
            if key not in shown:
                tag.hide()
        self._tell_more(hidden, round(room[3]))
        seats = self.seats
        placed = sorted((t for k, t in shown.items() if k in seats), key=lambda t: (t.home.top() // 60, t.home.left()))
        order = [tag for tag in (*placed, *listed) if not tag.isHidden()]
        if order != self._order:
            self._order = order
            stops = [self._board, *(tag for tag in order if tag.reading.setting is not None), self._more]
            for before, after in itertools.pairwise(stops):
                QWidget.setTabOrder(before, after)

    def turn(self) -> None:
        """Show all measures, or the next of them where there is no room for all, or only the first again."""
        if not self.all_shown:
            self.all_shown, self._begin = True, 0
        elif self._over:
            self._begin = sum(tag.listed for tag in self._order) + self._begin
        else:
            self.all_shown, self._begin = False, 0

    def _list(self, listed: Sequence[Tag], foot: int) -> int:
        """List tags from the top of the board down, by their themes; how many there is no room for."""
        width, y, theme, left = self.width - EDGE, EDGE, None, len(listed)
        self.headed = []
        for tag in listed:
            own = tag.reading.measure.theme
            high = ROW if tag.sizeHint().width() <= width else TWO
            if y + (HEAD if own is not theme else 0) + high > foot:
                tag.hide()
                continue
            if own is not theme:
                theme = own
                self.headed.append((y, own))
                y += HEAD
            tag.stand(QRect(EDGE, y, width, high), listed=True)
            y, left = y + high + 1, left - 1
        return left

    def _tell_more(self, hidden: int, foot: int) -> None:
        self._more.setVisible(bool(self.by_key) and (hidden > 0 or self.all_shown))
        self._more.setText(f"{hidden} more · M" if hidden else "Fewer · M")
        self._more.adjustSize()
        self._more.move(EDGE - 4, foot - HEAD + 2)

    def ask_again(self) -> None:
        """Tell anew why, where it was asked and what it was asked of is still there."""
        if self._asked in self.by_key:
            self._ask(self._asked, True)

    def _typed(self, key: str, text: str, on: int) -> None:
        tag = self.by_key[key]
        if text:
            try:
                self.bench.type(key, as_typed(tag.reading, self.bench.job, text), f"{tag.reading.label} {text}")
            except ValueError as error:
                tag.refused(told(str(error), self.bench.job.units))
                self.refused.emit(told(str(error), self.bench.job.units))
                return
        tag.taken()
        if on:
            order = [t for t in self._order if t.reading.setting is not None]
            following = order[((order.index(tag) if tag in order else 0) + on) % len(order)]
            following.setFocus()
            if following.reading.setting is not None and following.reading.setting.kind is not Kind.CHOICE:
                following.begin()

    def _nudged(self, key: str, steps: int) -> None:
        now = self._now(key)
        text = None if now is None else nudged(now, self.bench.job, steps)
        if text is not None:
            self.take(key, text, f"nudge {self.by_key[key].reading.label}", joins=f"nudge {key}")

    def _pinned(self, key: str) -> None:
        """Pin a measure where it is, or let a pinned one go back to its computed value."""
        if (now := self._now(key)) is None:
            return
        if now.pinned:
            self.take(key, "auto", f"let go of {self.by_key[key].reading.label}")
        else:
            text = now.value if isinstance(now.value, str) else nudged(now, self.bench.job, 0)
            self.take(key, str(text), f"pin {self.by_key[key].reading.label}")

    def _now(self, key: str) -> Reading | None:
        """How a measure stands; one that only the draft at hand still has, as it stood in that draft's own job."""
        made, job = self.bench.made, self.bench.job
        if made is None:
            return None
        measure = self.by_key[key].reading.measure
        return reading(job if stands(job, made, key) else self.bench.made_for, made, measure)

    def take(self, key: str, text: str, name: str, joins: str = "") -> None:
        """Take a value for a measure, or say why it cannot be."""
        try:
            self.bench.type(key, text, name, joins)
        except ValueError as error:
            self.refused.emit(told(str(error), self.bench.job.units))

    def _ask(self, key: str, wanted: bool) -> None:
        now = self._now(key) if wanted else None
        if now is None:
            self._asked = None
            self._slip.hide()
            return
        self._asked = key
        said = why(now, self.bench.job.units)
        keys = "" if self.by_key[key].reading.setting is None else "\nEnter types · P pins or lets go · arrows nudge"
        self._slip.tell(said + keys, self.by_key[key].geometry(), self._board.rect())
