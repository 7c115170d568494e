"""The printer: how far from true it prints, measured once on a sheet, and corrected from then on."""

from __future__ import annotations

import contextlib
import json
import math
from dataclasses import asdict, dataclass
from pathlib import Path

from tailor.core.errors import InputError
from tailor.files import atomic, state

LINES = 150.0, 200.0  # mm: what is drawn across and down the calibration sheet
MOST = 0.01  # share by which a page is corrected at the most


@dataclass(frozen=True)
class Printer:
    """What the printer makes of a length, across and down the page: 1 where it is true."""

    across: float = 1.0
    down: float = 1.0

    @property
    def true(self) -> bool:
        return self == Printer()

    @property
    def said(self) -> str:
        """How pages are corrected for it, in words; nothing where they are not."""
        if self.true:
            return ""
        return (
            f"Corrected for this printer: {100 / self.across - 100:+.2f} % across, {100 / self.down - 100:+.2f} % down."
        )


def measured(across: float, down: float) -> Printer:
    """The printer whose calibration sheet measures so much, mm. Raises InputError where it cannot be corrected."""
    shares = across / LINES[0], down / LINES[1]
    for share, true, name in zip(shares, LINES, ("across", "down"), strict=True):
        if not math.isfinite(share) or abs(share - 1) > MOST:
            raise InputError(
                f"{share * true:.1f} mm where {true:.0f} were printed is more than {MOST:.0%} off", f"the line {name}",
                "the driver scales the page: choose 100 %, no fitting to the paper, and print the sheet again",
            )  # fmt: skip
    return Printer(*shares)


def _path() -> Path:
    return state.folder() / "printer.json"


def known() -> Printer:
    """The printer as it was measured last; a true one where none was, or where that cannot be read."""
    with contextlib.suppress(OSError, ValueError, TypeError, KeyError, InputError):
        held = json.loads(_path().read_text(encoding="utf-8"))
        return measured(float(held["across"]) * LINES[0], float(held["down"]) * LINES[1])
    return Printer()


def remember(printer: Printer) -> None:
    """Keep what was measured. Raises OSError where it cannot be kept."""
    atomic.write(_path(), json.dumps(asdict(printer)).encode())
