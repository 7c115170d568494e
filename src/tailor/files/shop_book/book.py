"""The shop book: opened, read and changed, so that it is whole at every instant and nothing of it is ever lost.

Every change is one transaction that is kept with what was before it, and can be undone. What another bench changed
meanwhile is never written over: whoever comes second is told.
"""

from __future__ import annotations

import contextlib
import json
import os
import sqlite3
import time
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from functools import cache
from importlib.resources import files
from pathlib import Path
from typing import Any

import sqlalchemy as sa
from alembic import command
from alembic.config import Config
from alembic.script import ScriptDirectory
from sqlalchemy.exc import DBAPIError

from tailor.core.draft import styles
from tailor.core.errors import DiskError, InputError
from tailor.core.job import Job
from tailor.core.log.case import Case, Said
from tailor.core.log.entry import Entry
from tailor.core.shop.shop import Shop
from tailor.files import job_file, state
from tailor.files.shop_book import entries, rows, schema
from tailor.files.shop_book.rows import Row, Value

KEPT = 10  # backups
FORGOTTEN = 60.0  # s after which half a backup is nobody's
FOUND = 24  # jobs at once
STEPS = 500  # changes that can be undone
PATIENCE = 5.0  # s that another bench may be writing

Step = tuple[tuple[str, str], Row | None, Row | None]  # a row by its table and its id, as it was and as it is to be
Changed = tuple[Value | None, Value | None]  # what was there, and what is to be: None where there is nothing


@dataclass(frozen=True)
class Shelved:
    """A job as it was saved last, and where."""

    job: Job
    path: Path


class Book:
    """A shop book that is open. read_only: why nothing can be changed in it; empty where all can."""

    def __init__(self, path: Path, engine: sa.Engine, read_only: str) -> None:
        self.path, self.read_only = path, read_only
        self._engine = engine

    @classmethod
    def open(cls, path: Path) -> Book:
        """Open a book, begun where there is none, brought up to this version, and backed up.

        A newer one, or one that cannot be written, is opened to be read only. Raises InputError where it is no book,
        DiskError where it cannot be read or begun.
        """
        with _told(path):
            if path.exists() and not path.is_file():
                raise InputError("it is no file", str(path), "give the place of a shop book")
            if not path.exists():
                path.parent.mkdir(parents=True, exist_ok=True)
            elif why := _why_read_only(path):
                return cls(path, _engine(path, reading=True), why)
            engine = _engine(path)
            with engine.connect() as connection:
                stands = _version(connection)
            if stands != _newest():
                if stands:
                    back_up(path)
                _bring_up(engine)
            back_up(path)
            return cls(path, engine, "")

    @classmethod
    def usual(cls, path: Path | None = None) -> Book:
        """Open the book at a place, or where it usually lies. Raises as open does."""
        return cls.open(state.shop_book() if path is None else path)

    def close(self) -> None:
        self._engine.dispose()

    # What is in it

    def shop(self) -> Shop:
        """All that it holds. Raises InputError where a row cannot be used, DiskError where it cannot be read."""
        with self._reading() as connection:
            found = {
                table.name: [dict(row._mapping) for row in connection.execute(sa.select(table).order_by(table.c.id))]
                for table in schema.HELD if table is not schema.ENTRIES
            }  # fmt: skip
            of = schema.ENTRIES.c
            logged = [entries.glance(row) for row in connection.execute(sa.select(*(of[n] for n in entries.GLANCE)))]
        return replace(rows.shop_of(found, self.path.name), logged=tuple(logged))

    def log(self, *ids: str) -> tuple[Entry, ...]:
        """Entries of the log in full: those that are named, or all of them. Raises as shop does."""
        wanted = sa.select(schema.ENTRIES).order_by(schema.ENTRIES.c.id)
        with self._reading() as connection:
            found = connection.execute(wanted.where(schema.ENTRIES.c.id.in_(ids)) if ids else wanted)
            return rows.log_of({"entries": [dict(row._mapping) for row in found]}, self.path.name)

    def lessons(self) -> tuple[tuple[Case, ...], tuple[Said, ...]]:
        """The cases of all that is logged."""
        of = schema.ENTRIES.c
        with self._reading() as connection:
            return entries.lessons(connection.execute(sa.select(of.id, of.made_on, of.leather, of.tannage, of.learns)))

    def stamp(self) -> int:
        """A number that changes with every change of the book, whichever bench makes it."""
        with self._reading() as connection:
            return _stamp(connection)

    # Changes

    def put(self, said: str, *changes: Changed) -> None:
        """Make changes, all or none, as one step that can be undone by its name.

        Raises InputError where what was there is there no longer, and DiskError where it cannot be written.
        """
        before, after = dict[tuple[str, str], Row](), dict[tuple[str, str], Row]()
        for was, is_ in changes:
            before |= {} if was is None else rows.rows_of(was)
            after |= {} if is_ is None else rows.rows_of(is_)
        steps = [(at, before.get(at), after.get(at)) for at in {**before, **after}]
        self._write(said, [step for step in steps if step[1] != step[2]])

    def lay_in(self, said: str, shop: Shop, log: Iterable[Entry] = ()) -> None:
        """Put in all of a shop and a log as one step: what has the same id is replaced, what else is there stays."""
        coming = {(table, row["id"]): row for table, found in rows.all_rows(shop, log).items() for row in found}
        with self._reading() as connection:
            there = {at: row for at, row in _all(connection) if at in coming}
            orders = {row["id"] for (table, _), row in coming.items() if table == "orders"}
            gone = {
                at: row for at, row in _all(connection)
                if at[0] == "lines" and row["order"] in orders and at not in coming
            }  # fmt: skip
        steps: list[Step] = [(at, there.get(at), row) for at, row in coming.items() if there.get(at) != row]
        self._write(said, steps + [(at, row, None) for at, row in gone.items()])

    def _write(self, said: str, steps: list[Step]) -> None:
        if not steps:
            return
        with self._writing() as connection:
            said_once = set(connection.execute(sa.select(schema.SETTINGS.c.id)).scalars())
            steps = [  # what was never said of how the shop reckons is as usual
                (at, None if at[0] == schema.SETTINGS.name and at[1] not in said_once else before, after)
                for at, before, after in steps
            ]
            for at, before, after in _in_order(steps):
                _step(connection, at, before, after)
            connection.execute(sa.delete(schema.CHANGES).where(schema.CHANGES.c.undone))
            now = datetime.now(UTC).isoformat(timespec="seconds")
            change = int(connection.execute(sa.select(sa.func.max(schema.CHANGES.c.id))).scalar() or 0) + 1
            connection.execute(sa.insert(schema.CHANGES).values(id=change, at=now, said=said, undone=False))
            kept = [
                {"change": change, "table": table, "key": key, "before": _text(before), "after": _text(after)}
                for (table, key), before, after in steps
            ]
            connection.execute(sa.insert(schema.CHANGED), kept)
            connection.execute(sa.delete(schema.CHANGES).where(schema.CHANGES.c.id <= change - STEPS))

    def steps(self) -> tuple[str, str]:
        """What would be undone, and what done again; empty where nothing would."""
        with self._reading() as connection:
            undo, redo = _next(connection, undo=True), _next(connection, undo=False)
        return (undo.said if undo else ""), (redo.said if redo else "")

    def undo(self) -> str:
        """Undo the last change; what it was, or empty where there is none. Raises InputError as put does."""
        return self._turn_back(undo=True)

    def redo(self) -> str:
        """Do again what was undone last; what it was. Raises InputError as put does."""
        return self._turn_back(undo=False)

    def _turn_back(self, undo: bool) -> str:
        with self._writing() as connection:
            change = _next(connection, undo)
            if change is None:
                return ""
            own = schema.CHANGED.c
            found = connection.execute(sa.select(schema.CHANGED).where(own.change == change.id).order_by(own.id))
            steps = []
            for row in found:
                before, after = _row(row.before), _row(row.after)
                steps.append(((row.table, row.key), *((after, before) if undo else (before, after))))
            for at, before, after in _in_order(steps):
                _step(connection, at, before, after)
            marked = sa.update(schema.CHANGES).where(schema.CHANGES.c.id == change.id)
            connection.execute(marked.values(undone=undo))
            return str(change.said)

    # Every job that was saved

    def shelve(self, *saved: tuple[Job, Path]) -> None:
        """Keep copies of jobs that were saved, each in place of the one that was saved there before."""
        now = datetime.now(UTC).isoformat(timespec="microseconds")
        found = [
            {"id": str(path), "name": job.name, "style": job.style, "words": _words(job), "saved": now,
             "job": job_file.to_text(job)} for job, path in saved
        ]  # fmt: skip
        with self._writing() as connection:
            jobs = schema.JOBS
            connection.execute(sa.delete(jobs).where(jobs.c.id.in_([row["id"] for row in found])))
            connection.execute(sa.insert(jobs), found)

    def find(self, text: str, most: int = FOUND) -> list[Shelved]:
        """Jobs that were saved which have all the words of a text, or begin like them, the newest first."""
        jobs = schema.JOBS.c
        like = [jobs.words.contains(word, autoescape=True) for word in text.lower().split()]
        which = sa.select(jobs.id).where(*like).order_by(jobs.saved.desc()).limit(most).scalar_subquery()
        wanted = sa.select(schema.JOBS).where(jobs.id.in_(which)).order_by(jobs.saved.desc())
        with self._reading() as connection:
            found = connection.execute(wanted).all()
        shelved = []
        for row in found:
            with contextlib.suppress(InputError):  # one that cannot be read hides none of the others
                shelved.append(Shelved(job_file.from_text(row.job), Path(row.id)))
        return shelved

    # Connections

    @contextlib.contextmanager
    def _reading(self) -> Iterator[sa.Connection]:
        with _told(self.path), self._engine.connect() as connection:
            yield connection

    @contextlib.contextmanager
    def _writing(self) -> Iterator[sa.Connection]:
        if self.read_only:
            raise DiskError(self.read_only, str(self.path), "nothing was changed")
        with _told(self.path), _changing(self._engine) as connection:
            yield connection


def _words(job: Job) -> str:
    """What a job is found by: its name, its construction, its leather, and whatever was chosen for it."""
    chosen = (str(value) for value in job.settings.pinned.values() if isinstance(value, str))
    thick = job.settings.pinned.get("leather.thickness", job.settings.default("leather.thickness"))
    said = (
        job.name,
        job.style,
        styles.style(job.style).said,
        f"{thick:g} mm",
        job.settings.word("leather.temper"),
        *chosen,
    )
    return " ".join(said).lower()


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


def _why_read_only(path: Path) -> str:
    """Why nothing can be changed in a book that is there; empty where it can."""
    with _engine(path, reading=True).connect() as connection:
        stands = _version(connection)
    if stands and stands not in _versions():
        return "a newer Tailor wrote this shop book, so it can only be read here"
    if not os.access(path, os.W_OK) or not os.access(path.parent, os.W_OK):
        return "this shop book cannot be written where it lies"
    return ""


def _engine(path: Path, reading: bool = False) -> sa.Engine:
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
def _versions() -> tuple[str, ...]:
    """The versions that are known, the newest first."""
    return tuple(script.revision for script in ScriptDirectory.from_config(_config()).walk_revisions())


def _newest() -> str:
    return _versions()[0]


def _version(connection: sa.Connection) -> str:
    """The version of a book; empty where nothing was written in it. Raises InputError where it is another's."""
    tables = sa.inspect(connection).get_table_names()
    if "alembic_version" in tables:
        return str(connection.exec_driver_sql("SELECT version_num FROM alembic_version").scalar() or "")
    if tables:
        raise InputError("it is a database, and no shop book", "shop book", "give the place of a shop book")
    return ""


def _bring_up(engine: sa.Engine) -> None:
    """Bring a book up to this version, all the way or not at all."""
    config = _config()
    with _changing(engine) as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextlib.contextmanager
def _changing(engine: sa.Engine) -> Iterator[sa.Connection]:
    """One change, all of it or none, that the stamp tells of."""
    with engine.connect().execution_options(writing=True) as connection, connection.begin():
        yield connection
        connection.exec_driver_sql(f"PRAGMA user_version = {_stamp(connection) + 1}")


def _stamp(connection: sa.Connection) -> int:
    return int(connection.exec_driver_sql("PRAGMA user_version").scalar() or 0)


def _all(connection: sa.Connection) -> Iterator[tuple[tuple[str, str], Row]]:
    for table in schema.HELD:
        for row in connection.execute(sa.select(table)):
            yield (table.name, row.id), dict(row._mapping)


def _in_order(steps: Iterable[Step]) -> list[Step]:
    """Steps in an order in which nothing ever points to what is not there."""
    place = {table.name: n for n, table in enumerate(schema.HELD)}
    return sorted(steps, key=lambda step: (step[2] is None, place[step[0][0]] * (-1 if step[2] is None else 1)))


def _step(connection: sa.Connection, at: tuple[str, str], before: Row | None, after: Row | None) -> None:
    """One row from what it was to what it is to be. Raises InputError where it is not what it was."""
    name, key = at
    table = schema.METADATA.tables[name]
    one = table.c.id == key
    found = connection.execute(sa.select(table).where(one)).first()
    there = None if found is None else dict(found._mapping)
    if there != before:
        gone = "is no longer there" if there is None else "was changed by another bench meanwhile"
        called = (before or there or {}).get("name", key)
        raise InputError(f"'{called}' {gone}", "shop book", "look at what is there now, and change that")
    if after is None:
        connection.execute(sa.delete(table).where(one))
    elif before is None:
        connection.execute(sa.insert(table).values(after))
    else:
        connection.execute(sa.update(table).where(one).values(after))


def _next(connection: sa.Connection, undo: bool) -> Any:
    """The change that is undone next, or done again."""
    own = schema.CHANGES.c
    order = own.id.desc() if undo else own.id.asc()
    wanted = sa.select(schema.CHANGES).where(own.undone.is_(not undo)).order_by(order).limit(1)
    return connection.execute(wanted).first()


def _text(row: Row | None) -> str | None:
    return None if row is None else json.dumps(row, ensure_ascii=False)


def _row(text: str | None) -> Row | None:
    return None if text is None else json.loads(text)


@contextlib.contextmanager
def _told(path: Path) -> Iterator[None]:
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
