"""The measurements: station table and zones, typed beside the object, which follows at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeySequence, QResizeEvent, QShortcut
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QSizePolicy,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from tailor.core.carried import stations as table
from tailor.core.carried.block import Told, told
from tailor.core.carried.stations import Station
from tailor.core.carried.zones import Zone, ZoneKind, of_kind, parse_kind
from tailor.core.errors import InputError
from tailor.core.job import Job
from tailor.core.units import System, format_length, parse_length, retold
from tailor.desk import theme
from tailor.desk.words import Words
from tailor.desk.workbench import Workbench

COLUMNS = ("y", "x_spine", "x_seam", "front", "back", "shape", "corner")
SHARES = (0.16, 0.13, 0.17, 0.13, 0.13, 0.14, 0.14)  # of the table's width
HEADS = ("up", "spine", "seam", "front", "back", "shape", "corner")
ZONE_COLUMNS = ("kind", "low", "high")


# Where a zone of each kind mostly lies, as shares of the object's length.
LIKELY = {
    ZoneKind.EDGE: (0.0, 0.6), ZoneKind.POINT: (0.0, 0.05), ZoneKind.TRIGGER: (0.4, 0.5), ZoneKind.GRIP: (0.65, 1.0),
    ZoneKind.CONTROL: (0.8, 0.9), ZoneKind.STOP: (0.6, 0.65), ZoneKind.HOLLOW: (0.55, 0.65),
}  # fmt: skip


class Measurements(QWidget):
    """Both tables. refused: what was typed cannot be. kind_chosen: the kind of zone to draw on the board.
    sizes_wanted: a plain object is to be told anew.
    """

    refused = pyqtSignal(str)
    kind_chosen = pyqtSignal(str)
    sizes_wanted = pyqtSignal()

    def __init__(self, bench: Workbench, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("measurements")
        self.setMinimumWidth(300)
        self.bench = bench
        self._filling = False
        self.stations = self._table(HEADS, "Stations")
        self.zones = self._table(("zone", "from", "to"), "Zones")
        self.zones.setMaximumHeight(148)
        self.stations.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.stations.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.stations.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.stations.cellChanged.connect(self._station_typed)
        self.zones.cellChanged.connect(self._zone_typed)
        all_ = QVBoxLayout(self)
        all_.setContentsMargins(10, 8, 8, 8)
        all_.setSpacing(5)
        self.plain = self._plain_line()
        all_.addWidget(self.plain)
        self._rows = QWidget()
        rows = QVBoxLayout(self._rows)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(5)
        rows.addLayout(self._head("Stations", (("Add", self.add_station), ("Remove", self.remove_station))))
        rows.addWidget(self.stations, 1)
        all_.addWidget(self._rows, 100)
        all_.addStretch(1)
        self._unfolded: tuple[Station, ...] | None = None  # stations that the maker wanted to see for themselves
        self.kind = QComboBox()
        self.kind.addItems(list(ZoneKind))
        self.kind.setAccessibleName("Kind of zone to draw")
        self.kind.setToolTip("drag beside the object to draw one of these")
        self.kind.currentTextChanged.connect(lambda said: self.kind_chosen.emit(said))
        zones = self._head("Zones", (("Add", self.add_zone), ("Remove", self.remove_zone)))
        zones.insertWidget(1, self.kind)
        all_.addLayout(zones)
        all_.addWidget(self.zones)
        self.caution = Words("Sharp: tape the edge while you measure and fit, and never draw towards your hand.")
        self.caution.setWordWrap(True)
        self.caution.setFont(theme.text(9.5))
        all_.addWidget(self.caution)
        for widget, remove in ((self.stations, self.remove_station), (self.zones, self.remove_zone)):
            QShortcut(QKeySequence("Ctrl+Del"), widget, remove, context=Qt.ShortcutContext.WidgetShortcut)
        for widget, add in ((self.stations, self.add_station), (self.zones, self.add_zone)):
            QShortcut(QKeySequence("Ctrl+Ins"), widget, add, context=Qt.ShortcutContext.WidgetShortcut)
        bench.changed.connect(self.refresh)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Columns as wide as what they hold: heights and seams are the longest."""
        room = self.width() - 20  # less the margins and the frame; the table itself is laid out only later
        for column, share in enumerate(SHARES):
            self.stations.setColumnWidth(column, int(share * room))

    def _table(self, heads: tuple[str, ...], name: str) -> QTableWidget:
        made = QTableWidget(0, len(heads))
        made.setAccessibleName(name)
        made.setHorizontalHeaderLabels(heads)
        made.setFont(theme.text(9.5))
        made.horizontalHeader().setFont(theme.text(9))
        made.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        made.setWordWrap(False)
        made.verticalHeader().hide()
        made.verticalHeader().setDefaultSectionSize(24)
        made.setEditTriggers(QAbstractItemView.EditTrigger.AllEditTriggers)
        made.setVerticalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        return made

    def _plain_line(self) -> QWidget:
        """What a plain object is, in one line, and the ways on from there."""
        made = QWidget()
        made.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)
        within = QVBoxLayout(made)
        within.setContentsMargins(0, 0, 0, 6)
        self.plain_said = Words()
        self.plain_said.setWordWrap(True)
        self.plain_said.setFont(theme.text(11.5, bold=True))
        within.addWidget(self.plain_said)
        row = QHBoxLayout()
        for said, does in (("Its sizes", self.sizes_wanted.emit), ("Stations", self.unfold)):
            button = QPushButton(said)
            button.setProperty("plain", "false")
            button.setAccessibleName({"Stations": "Show its stations"}.get(said, "Change its sizes"))
            button.clicked.connect(lambda _=False, does=does: does())
            row.addWidget(button)
        row.addStretch()
        within.addLayout(row)
        return made

    def unfold(self) -> None:
        """Show the stations of a plain object."""
        self._unfolded = self.bench.job.stations
        self.refresh()

    def _head(self, said: str, buttons: tuple[tuple[str, Callable[[], object]], ...]) -> QHBoxLayout:
        row = QHBoxLayout()
        label = Words(said)
        label.setFont(theme.heading(12))
        row.addWidget(label)
        row.addStretch()
        for text, does in buttons:
            button = QPushButton(text)
            button.setProperty("plain", "false")
            button.setAccessibleName(f"{text} {said.lower().rstrip('s')}")
            button.clicked.connect(does)
            row.addWidget(button)
        return row

    def refresh(self) -> None:
        """Show the job's measurements."""
        self._filling = True
        job = self.bench.job
        plain = None if job.stations == self._unfolded else told(job.stations)
        self.plain.setVisible(plain is not None)
        self._rows.setVisible(plain is None)
        if plain is not None:
            self.plain_said.setText(_plainly(plain, job.units))
        self.caution.setVisible(bool(of_kind(job.zones, ZoneKind.EDGE, ZoneKind.POINT)))
        self.stations.setRowCount(len(job.stations))
        for r, station in enumerate(job.stations):
            for c, column in enumerate(COLUMNS):
                value = getattr(station, column)
                said = value if column == "shape" else _exact(value, job.units)
                _put(self.stations, r, c, "" if column == "corner" and not value else str(said))
        self.zones.setRowCount(len(job.zones))
        for r, zone in enumerate(job.zones):
            for c, said in enumerate((zone.kind, *(_exact(v, job.units) for v in (zone.low, zone.high)))):
                _put(self.zones, r, c, str(said))
        self._filling = False

    def _station_typed(self, row: int, column: int) -> None:
        item = self.stations.item(row, column)
        if self._filling or item is None:
            return
        job = self.bench.job
        said = item.text().strip() or ("0" if COLUMNS[column] == "corner" else "")
        try:
            changed = table.edit(job.stations, row, COLUMNS[column], said, job.units)
        except InputError as error:
            self._refuse(item, error)
            return
        self.bench.change(f"{HEADS[column]} of station {row + 1}", replace(job, stations=changed))
        self.refresh()

    def _zone_typed(self, row: int, column: int) -> None:
        item = self.zones.item(row, column)
        if self._filling or item is None:
            return
        job = self.bench.job
        where = f"zone {row + 1}"
        try:
            if column == 0:
                zone = replace(job.zones[row], kind=parse_kind(item.text(), where))
            else:
                length = parse_length(item.text(), job.units.bare, where)
                ends: dict[str, Any] = {ZONE_COLUMNS[column]: length}
                zone = replace(job.zones[row], **ends)
        except InputError as error:
            self._refuse(item, error)
            return
        self.bench.change(f"zone {zone.kind}", replace(job, zones=(*job.zones[:row], zone, *job.zones[row + 1 :])))
        self.refresh()

    def _refuse(self, item: QTableWidgetItem, error: InputError) -> None:
        """Keep what was typed on show, reddened, and say what is wrong; the job stays as it was."""
        self._filling = True
        item.setBackground(theme.colour("#fbe6df"))
        item.setToolTip(str(error))
        self._filling = False
        self.refused.emit(retold(str(error), self.bench.job.units))

    def add_station(self) -> None:
        """A station half way to the next, or a step beyond the last, shaped as the object is there."""
        job = self.bench.job
        row = max(self.stations.currentRow(), 0)
        here = job.stations[row]
        y = (here.y + job.stations[row + 1].y) / 2 if row + 1 < len(job.stations) else here.y + 10.0
        x_spine, width, front, back, corner = map(float, job.loft.sizes(y)[0])
        made = Station(y, x_spine, x_spine + width, front, back, here.shape, corner if here.corner else 0.0)
        self._change_stations("add a station", job, [*job.stations, made])
        self.stations.setCurrentCell(row + 1, 0)

    def remove_station(self) -> None:
        job, row = self.bench.job, self.stations.currentRow()
        if 0 <= row < len(job.stations):
            self._change_stations("remove a station", job, [s for k, s in enumerate(job.stations) if k != row])

    def _change_stations(self, name: str, job: Job, stations: list[Station]) -> None:
        try:
            self.bench.change(name, replace(job, stations=table.checked(stations)))
        except InputError as error:
            self.refused.emit(str(error))

    def add_zone(self) -> None:
        """A zone of the kind chosen, where one mostly lies."""
        job, kind = self.bench.job, ZoneKind(self.kind.currentText())
        low, high = job.loft.tip, job.loft.top
        a, b = (round(low + s * (high - low), 1) for s in LIKELY[kind])
        self.bench.change(f"add {kind}", replace(job, zones=(*job.zones, Zone(kind, a, b))))
        self.zones.setCurrentCell(len(job.zones), 0)

    def remove_zone(self) -> None:
        job, row = self.bench.job, self.zones.currentRow()
        if 0 <= row < len(job.zones):
            kept = tuple(z for k, z in enumerate(job.zones) if k != row)
            self.bench.change(f"remove {job.zones[row].kind}", replace(job, zones=kept))


def _exact(mm: float, units: System) -> str:
    """A measurement as it was typed, or as near as the maker's unit comes to it."""
    return f"{mm:.3f}".rstrip("0").rstrip(".") if units is System.MM else format_length(mm, units, 64, unit=False)


def _plainly(plain: Told, units: System) -> str:
    """A plain object in one line."""
    sizes = [format_length(size, units) for size in plain.sizes]
    if plain.kind == "cylinder":
        return f"Round bar {sizes[0]} long, {sizes[1]} across"
    edges = f", edges {sizes[3]}" if plain.kind == "block" and plain.sizes[3] else ""
    return f"{plain.kind.capitalize()} {' × '.join(sizes[:3])}{edges}"


def _put(widget: QTableWidget, row: int, column: int, said: str) -> None:
    item = QTableWidgetItem(said)
    item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
    widget.setItem(row, column, item)
