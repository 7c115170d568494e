"""A maker's own tables: over the sizes that are shipped and what makers usually go by, those that lie in the folder of
his settings; and what he has learned and made his own.

One that cannot be read is not used, and is told of, so that a slip in it never keeps the bench shut.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping
from pathlib import Path
from types import MappingProxyType
from typing import TypeVar

from platformdirs import user_config_path

from tailor.core import incoming
from tailor.core.errors import DiskError, InputError
from tailor.core.habit import Habit
from tailor.core.leather import fastenings, trimmings
from tailor.core.leather.tables import NAMES, shipped
from tailor.core.maker import Maker, usual
from tailor.core.taken import Taken
from tailor.files import atomic, habits, taken

Size = TypeVar("Size")
LEARNED = "learned.json"


def folder() -> Path:
    """Where a maker's own tables lie."""
    return Path(user_config_path("tailor", appauthor=False))


def load() -> tuple[Maker, tuple[str, ...]]:
    """The maker whose tables lie here, and what is to be told of those that could not be used."""
    told = list[str]()
    plain = usual()
    return (
        Maker(
            _own("fastenings.csv", plain.fastenings, fastenings.read, told),
            _own("trimmings.csv", plain.trimmings, trimmings.read, told),
            _taken(told),
            _own(habits.NAME, plain.habits, habits.read, told),
        ),
        tuple(told),
    )


def _own(
    name: str, plain: Mapping[str, Size], read: Callable[[str, str], dict[str, Size]], told: list[str]
) -> Mapping[str, Size]:
    """Sizes or habits by name, the maker's own over the shipped ones."""
    own = folder() / name
    try:
        if os.path.lexists(own):
            return MappingProxyType({**plain, **read(incoming.read_text(own), str(own))})
    except InputError as error:
        told.append(f"{error} Until then what is usual is used.")
    return plain


def _taken(told: list[str]) -> tuple[Taken, ...]:
    """What the maker has learned and made his own."""
    own = folder() / LEARNED
    try:
        return taken.read(own) if os.path.lexists(own) else ()
    except InputError as error:
        told.append(f"{error} Until then the tables are gone by.")
        return ()


def keep_taken(mine: tuple[Taken, ...]) -> None:
    """Keep what a maker has learned and made his own. Raises DiskError where it cannot be written."""
    own = folder() / LEARNED
    try:
        own.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DiskError(f"it cannot be written ({incoming.said(error)})", str(own), "see to the folder") from None
    taken.write(own, mine)


def keep_habit(of: Habit, value: float | None) -> Mapping[str, float]:
    """Keep a maker's own number of a habit, or let it go; all his own. Raises InputError where his table cannot be
    read, DiskError where it cannot be written.
    """
    own = folder() / habits.NAME
    try:
        own.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DiskError(f"it cannot be written ({incoming.said(error)})", str(own), "see to the folder") from None
    with atomic.held(own):
        text = incoming.read_text(own) if os.path.lexists(own) else habits.table()
        habits.read(text, str(own))
        text = habits.with_mine(text, of, value)
        atomic.write(own, text.encode())
    return MappingProxyType(habits.read(text, str(own)))


def take_out() -> list[Path]:
    """Lay the shipped tables, and one of all habits, in the maker's folder, to be changed; none is written over."""
    laid = []
    for name, text in (*((name, shipped(name)) for name in NAMES), (habits.NAME, habits.table())):
        own = folder() / name
        try:
            own.parent.mkdir(parents=True, exist_ok=True)
            if not own.exists():
                own.write_text(text, encoding="utf-8")
        except OSError as error:
            raise DiskError(f"it cannot be written ({incoming.said(error)})", str(own), "see to the folder") from None
        laid.append(own)
    return laid
