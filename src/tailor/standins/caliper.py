"""A simulated digital caliper: a pseudo-terminal that says one line a press, as the real one does on its wire."""

from __future__ import annotations

import os
import threading
import tty
from collections.abc import Iterator, Sequence

import numpy as np

from tailor.core.carried.calipers import begin
from tailor.core.carried.stations import Station

NOISE = 0.03  # mm
TWICE_IN = 7  # one press in so many is pressed twice


class Caliper:
    """Plays lengths, mm, one a press, with noise and the odd repeated press. port: what to open."""

    def __init__(self, lengths: Sequence[float], seed: int = 0, noise: float = NOISE, twice_in: int = TWICE_IN) -> None:
        self._mine, theirs = os.openpty()
        tty.setraw(theirs)
        self.port = os.ttyname(theirs)
        self._theirs: int | None = theirs
        self._lines = self._play(lengths, np.random.default_rng(seed), noise, twice_in)
        self._going: threading.Event = threading.Event()

    @staticmethod
    def of(stations: Sequence[Station], times: int = 1, seed: int = 0) -> Caliper:
        """A caliper in the hand of one who measures an object's stations in the order they are asked for."""
        return Caliper([p.expected for p in begin(stations).places for _ in range(times)], seed)

    @staticmethod
    def _play(lengths: Sequence[float], rng: np.random.Generator, noise: float, twice_in: int) -> Iterator[list[str]]:
        for k, length in enumerate(lengths, 1):
            line = f"{length + rng.normal(0, noise):+08.2f} mm\r\n"
            yield [line] * (2 if twice_in and k % twice_in == 0 else 1)

    def press(self) -> bool:
        """Press the button; False when there is nothing more to measure, or the wire is out."""
        try:
            for line in next(self._lines):
                os.write(self._mine, line.encode())
        except (StopIteration, OSError):
            return False
        return True

    def say(self, line: str) -> None:
        """Send a line of one's own."""
        os.write(self._mine, (line + "\r\n").encode())

    def keep_pressing(self, every: float = 1.0) -> None:
        """Press again and again on another thread, until there is nothing more or it is unplugged."""

        def go() -> None:
            while not self._going.wait(every) and self.press():
                pass

        threading.Thread(target=go, daemon=True).start()

    def unplug(self) -> None:
        """Pull the wire out."""
        self._going.set()
        for end in (self._mine, self._theirs):
            if end is not None:
                os.close(end)
        self._theirs = None
        self._mine = -1
