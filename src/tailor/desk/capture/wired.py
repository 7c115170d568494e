"""Calipers by wire: the board shows where the jaws go next, and each press lands there."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtSerialPort import QSerialPort, QSerialPortInfo
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
)

from tailor.core.carried import calipers
from tailor.core.carried.calipers import Place, Session
from tailor.core.carried.capture import Way
from tailor.core.errors import InputError
from tailor.core.units import System, format_length
from tailor.desk import theme
from tailor.desk.capture.easel import Easel
from tailor.desk.capture.way import Form
from tailor.desk.workbench import Workbench
from tailor.standins.caliper import Caliper

STAND_IN = "stand-in (demo)"
EVERY = 0.9  # s between the stand-in's presses
HEADS = ("up", "across", "readings", "mean", "±")
LONGEST = 4096  # bytes of a line that never ends


class CaliperWay(Form):
    """Guided capture. jaws: where they go next, or None; the board draws them there."""

    jaws = pyqtSignal(object)
    way = Way.CALIPER
    called = "Caliper"
    asks = ""

    def __init__(self, bench: Workbench, easel: Easel, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self.session: Session | None = None
        self.stand_in: Caliper | None = None
        self.wire: QSerialPort | None = None
        self._heard = b""
        super().__init__(bench, easel)

    def build(self) -> None:
        row = QHBoxLayout()
        self.ports = QComboBox()
        self.ports.setEditable(True)
        self.ports.setAccessibleName("Port")
        self.listen = QPushButton("Listen")
        self.listen.setProperty("plain", "false")
        self.listen.setCheckable(True)
        self.listen.clicked.connect(self._listen)
        row.addWidget(self.ports, 1)
        row.addWidget(self.listen)
        self.form.addRow("port", row)
        self.times = self.choice("each place", ["once", "twice", "three times"], self._again)
        self.places = QTableWidget(0, len(HEADS))
        self.places.setAccessibleName("Places")
        self.places.setHorizontalHeaderLabels(HEADS)
        self.places.setFont(theme.text(9.5))
        self.places.horizontalHeader().setFont(theme.text(9))
        self.places.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.places.verticalHeader().hide()
        self.places.verticalHeader().setDefaultSectionSize(23)
        self.places.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.places.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.places.setMinimumHeight(230)
        self.places.cellClicked.connect(lambda r, _: self._turn_to(r))
        steps = QHBoxLayout()
        for said, keys, deed in (
            ("Back", "Alt+Up", lambda: self._step(-1)), ("Next", "Alt+Down", lambda: self._step(1)),
            ("Forget the last", "Alt+Backspace", self.forget),
        ):  # fmt: skip
            button = QPushButton(said)
            button.setProperty("plain", "false")
            button.setShortcut(keys)
            button.setToolTip(f"{said} ({keys})")
            button.clicked.connect(deed)
            steps.addWidget(button)
        steps.addStretch()
        self.column.addWidget(self.places, 1)
        self.column.addLayout(steps)

    def begin(self) -> None:
        self._list_ports()
        if self.session is None or [p.y for p in self.session.places[::2]] != [s.y for s in self.bench.job.stations]:
            self._again()
        self._show()

    def forget_object(self) -> None:
        self.session = None
        self.unplug()
        if self.isVisible():
            self.begin()

    def _list_ports(self) -> None:
        said = self.ports.currentText()
        self.ports.clear()
        self.ports.addItems([p.systemLocation() for p in QSerialPortInfo.availablePorts()] + [STAND_IN])
        self.ports.setCurrentText(said or STAND_IN)

    def _again(self) -> None:
        """Begin anew from the job's stations; what was read at places that stay is kept."""
        kept = self.session
        self.session = calipers.begin(self.bench.job.stations, self.times.currentIndex() + 1)
        if kept is not None and [p.y for p in kept.places] == [p.y for p in self.session.places]:
            self.session = calipers.retimed(kept, self.session.times)
        self._show()

    # The wire

    def _listen(self) -> None:
        if self.wire is not None:
            self.unplug()
            return
        name = self.ports.currentText()
        if name == STAND_IN:
            self.stand_in = Caliper.of(self.bench.job.stations, self.times.currentIndex() + 1)
            name = self.stand_in.port
        self.plug(name)
        if self.wire is not None and self.stand_in is not None:
            self.stand_in.keep_pressing(EVERY)

    def plug(self, name: str) -> bool:
        """Listen at a port; False, with the reason told, where it cannot be opened."""
        wire = QSerialPort(self)
        wire.setPortName(name)
        wire.setBaudRate(9600)
        if not wire.open(QSerialPort.OpenModeFlag.ReadOnly):
            self.listen.setChecked(False)
            self.refused.emit(
                f"{name}: it cannot be opened ({wire.errorString().lower()}); check the wire and the port."
            )
            wire.deleteLater()
            return False
        self._heard = b""
        wire.readyRead.connect(self._read)
        wire.errorOccurred.connect(self._trouble)
        self.wire = wire
        self.listen.setChecked(True)
        self.listen.setText("Stop")
        return True

    def unplug(self) -> None:
        """Listen no more; what was read stays."""
        wire, self.wire = self.wire, None
        if wire is not None:
            wire.errorOccurred.disconnect(self._trouble)
            wire.close()
            wire.deleteLater()
        if self.stand_in is not None:
            self.stand_in.unplug()
            self.stand_in = None
        self.listen.setChecked(False)
        self.listen.setText("Listen")

    def _trouble(self, error: QSerialPort.SerialPortError) -> None:
        if error is QSerialPort.SerialPortError.NoError or self.wire is None:
            return
        self.unplug()
        count = self.session.count if self.session else 0
        self.refused.emit(f"The caliper no longer answers; its {count} readings are kept. Plug it in and listen again.")
        self._show()

    def _read(self) -> None:
        assert self.wire is not None
        self._heard += bytes(self.wire.readAll().data())
        *lines, self._heard = self._heard.split(b"\n")
        if len(self._heard) > LONGEST:
            lines, self._heard = [*lines, self._heard], b""
        for line in lines:
            if line.strip():
                self.hear(line.decode("ascii", "replace"))

    def hear(self, line: str) -> None:
        """A line came from the caliper."""
        if self.session is None:
            return
        try:
            self.session, said = calipers.pressed(self.session, calipers.parse_line(line), self._clock())
        except InputError as error:
            self.refused.emit(str(error))
            return
        self._show(said)

    # What was read

    def _turn_to(self, number: int) -> None:
        if self.session is not None:
            self.session = calipers.turn_to(self.session, number)
            self._show()

    def _step(self, by: int) -> None:
        if self.session is not None:
            self._turn_to(self.session.at + by)

    def forget(self) -> None:
        """Forget the last reading of the place that is chosen, or of the one before it where it has none."""
        if self.session is None:
            return
        for number in (self.session.at, self.session.at - 1):
            if 0 <= number < len(self.session.taken) and self.session.taken[number].readings:
                last = len(self.session.taken[number].readings) - 1
                self.session = calipers.turn_to(calipers.forget(self.session, number, last), number)
                break
        self._show()

    def _show(self, said: str = "") -> None:
        session = self.session
        if session is None:
            return
        units = self.bench.job.units
        self.places.setRowCount(len(session.places))
        for r, (place, taken) in enumerate(zip(session.places, session.taken, strict=True)):
            marked = [f"({v:.2f})" if k in taken.outliers else f"{v:.2f}" for k, v in enumerate(taken.readings)]
            mean = _fine(taken.mean, units) if taken.good else "–"
            spread = f"{taken.spread:.2f}" if len(taken.good) > 1 else ""
            texts = (format_length(place.y, units, unit=False), place.across.value, " ".join(marked), mean, spread)
            for c, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setTextAlignment(Qt.AlignmentFlag.AlignCenter)
                if taken.readings and not taken.settled:
                    item.setBackground(theme.colour("#fbe6df"))
                self.places.setItem(r, c, item)
        here: Place | None = None if session.done else session.places[session.at]
        if here is not None:
            self.places.selectRow(session.at)
            self.places.scrollToItem(self.places.item(session.at, 0))
            asks = f"Next: the {here.across.value} at {format_length(here.y, units)} up."
        else:
            asks = "Every place is measured."
        try:
            table = calipers.table(session, self.bench.job.stations) if session.count else None
        except InputError as error:
            table, said = None, str(error)
        summed = "" if table is None else f"\n{self.sum_up(table)}"
        self.offer(table, (f"{said[0].upper()}{said[1:]}.\n" if said else "") + asks + summed)
        self.jaws.emit(here if self.isVisible() else None)

    def take(self) -> None:
        super().take()
        self.session = None
        self.unplug()

    def close_down(self) -> None:
        self.unplug()
        super().close_down()


def _fine(mm: float, units: System) -> str:
    """A caliper's mean, as finely as it reads."""
    return f"{mm:.2f}" if units is System.MM else format_length(mm, units, 64, unit=False)
