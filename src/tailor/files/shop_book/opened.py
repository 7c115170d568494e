"""Opened: how a shop book is reached on the disk, which version it is of, and the copies that are kept of it."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import time
from collections.abc import Iterator
from functools import cache
from importlib.resources import files
from pathlib import Path

import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy.exc import DBAPIError

from tailor.core.errors import DiskError, InputError

KEPT = 10  # backups
FORGOTTEN = 60.0  # s after which half a backup is nobody's
PATIENCE = 5.0  # s that another bench may be writing


def back_up(path: Path) -> Path | None:
    """Keep a copy of a book as it is beside it, of the last few; None where it is kept already. Raises DiskError."""
    folder = backups(path)
    with contextlib.closing(sqlite3.connect(path)) as own:
        stamp = own.execute("PRAGMA user_version").fetchone()[0]
        kept = folder / f"{stamp:09d}{path.suffix}"
        if kept.exists() or not stamp:
            return None
        folder.mkdir(exist_ok=True)
        for left in folder.glob("*.part"):  # by a bench that was ended half way
            if time.time() - left.stat().st_mtime > FORGOTTEN:
                left.unlink(missing_ok=True)
        part = kept.with_suffix(".part")
        part.unlink(missing_ok=True)
        with contextlib.closing(sqlite3.connect(part)) as copy:
            own.backup(copy)
    os.replace(part, kept)
    for old in sorted(folder.glob(f"*{path.suffix}"))[:-KEPT]:
        old.unlink()
    return kept


def backups(path: Path) -> Path:
    """The folder where copies of a book are kept."""
    return path.with_name(path.stem + "-backups")


def why_read_only(path: Path) -> str:
    """Why nothing can be changed in a book that is there; empty where it can."""
    with reached(path, reading=True).connect() as connection:
        stands = version(connection)
    if stands and stands not in versions():
        return "a newer Tailor wrote this shop book, so it can only be read here"
    if not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
        return "this shop book cannot be written where it lies"
    return ""


def reached(path: Path, reading: bool = False) -> sa.Engine:
    """The way to a book on the disk, to be read only or written in too."""

    def connected() -> sqlite3.Connection:
        where = f"{path.resolve().as_uri()}?mode={'ro' if reading else 'rwc'}"
        made = sqlite3.connect(where, uri=True, timeout=PATIENCE, isolation_level=None, check_same_thread=False)
        if not reading:
            made.execute("PRAGMA journal_mode = WAL")
            made.execute("PRAGMA synchronous = FULL")
        made.execute("PRAGMA foreign_keys = ON")
        return made

    engine = sa.create_engine("sqlite://", creator=connected, poolclass=sa.pool.NullPool)

    @sa.event.listens_for(engine, "begin")
    def begin(connection: sa.Connection) -> None:
        writing = connection.get_execution_options().get("writing", False)
        connection.exec_driver_sql("BEGIN IMMEDIATE" if writing else "BEGIN")

    return engine


def _config() -> Config:
    config = Config()
    config.set_main_option("script_location", str(files(__package__) / "moves"))
    return config


@cache
def versions() -> tuple[str, ...]:
    """The versions that are known, the newest first."""
    return tuple(script.revision for script in ScriptDirectory.from_config(_config()).walk_revisions())


def newest() -> str:
    """This version."""
    return versions()[0]


def version(connection: sa.Connection) -> str:
    """The version of a book; empty where nothing was written in it. Raises InputError where it is another's."""
    tables = sa.inspect(connection).get_table_names()
    if "alembic_version" in tables:
        return str(connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() or "")
    if tables:
        raise InputError("it is a database, and no shop book", "shop book", "give the place of a shop book")
    return ""


def bring_up(engine: sa.Engine) -> None:
    """Bring a book up to this version, all the way or not at all."""
    config = _config()
    with changing(engine) as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextlib.contextmanager
def changing(engine: sa.Engine) -> Iterator[sa.Connection]:
    """One change, all of it or none, that the stamp tells of."""
    with engine.connect().execution_options(writing=True) as connection, connection.begin():
        yield connection
        connection.exec_driver_sql(f"PRAGMA user_version = {stamp(connection) + 1}")


def stamp(connection: sa.Connection) -> int:
    """A number that is one more with every change."""
    return int(connection.exec_driver_sql("PRAGMA user_version").scalar() or 0)


@contextlib.contextmanager
def told(path: Path) -> Iterator[None]:
    """What goes wrong with a database, in one sentence."""
    try:
        yield
    except (DBAPIError, sqlite3.Error, OSError) as error:
        said = str(error.orig if isinstance(error, DBAPIError) else error).lower()
        if "locked" in said or "busy" in said:
            raise DiskError("another bench is writing in it", str(path), "try again in a moment") from None
        if "full" in said or "no space" in said:
            raise DiskError("the disk is full", str(path), "make room; nothing was changed") from None
        if "not a database" in said or "malformed" in said:
            remedy = f"put one of the copies in {backups(path).name} in its place"
            raise InputError("it is no shop book, or it is damaged", str(path), remedy) from None
        raise DiskError(f"it cannot be read or written ({said})", str(path), "see to its folder and the disk") from None
