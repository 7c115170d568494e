"""The shop book: opened, read and changed, so that it is whole at every instant and nothing of it is ever lost.

Every change is one transaction that is kept with what was before it, and can be undone. What another bench changed
meanwhile is never written over: whoever comes second is told.
"""

from __future__ import annotations

import contextlib
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from datetime import UTC, datetime
from pathlib import Path

import sqlalchemy as sa

from tailor.core.draft import styles
from tailor.core.errors import DiskError, InputError
from tailor.core.job import Job
from tailor.core.log.case import Case, Said
from tailor.core.log.entry import Entry
from tailor.core.shop.shop import Shop
from tailor.files import job_file, state
from tailor.files.shop_book import entries, rows, schema
from tailor.files.shop_book.opened import (
    back_up,
    bring_up,
    changing,
    newest,
    reached,
    stamp,
    told,
    version,
    why_read_only,
)
from tailor.files.shop_book.rows import Row, Value
from tailor.files.shop_book.stepwise import Step, as_row, as_text, in_order, take, turned

FOUND = 24  # jobs at once
STEPS = 500  # changes that can be undone

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
        with told(path):
            if path.exists() and not path.is_file():
                raise InputError("it is no file", str(path), "give the place of a shop book")
            if not path.exists():
                path.parent.mkdir(parents=True, exist_ok=True)
            elif why := why_read_only(path):
                return cls(path, reached(path, reading=True), why)
            engine = reached(path)
            with engine.connect() as connection:
                stands = version(connection)
            if stands != newest():
                if stands:
                    back_up(path)
                bring_up(engine)
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
            return stamp(connection)

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
            for at, before, after in in_order(steps):
                take(connection, at, before, after)
            connection.execute(sa.delete(schema.CHANGES).where(schema.CHANGES.c.undone))
            now = datetime.now(UTC).isoformat(timespec="seconds")
            change = int(connection.execute(sa.select(sa.func.max(schema.CHANGES.c.id))).scalar() or 0) + 1
            connection.execute(sa.insert(schema.CHANGES).values(id=change, at=now, said=said, undone=False))
            kept = [
                {"change": change, "table": table, "key": key, "before": as_text(before), "after": as_text(after)}
                for (table, key), before, after in steps
            ]
            connection.execute(sa.insert(schema.CHANGED), kept)
            connection.execute(sa.delete(schema.CHANGES).where(schema.CHANGES.c.id <= change - STEPS))

    def steps(self) -> tuple[str, str]:
        """What would be undone, and what done again; empty where nothing would."""
        with self._reading() as connection:
            undo, redo = turned(connection, undo=True), turned(connection, undo=False)
        return (undo.said if undo else ""), (redo.said if redo else "")

    def undo(self) -> str:
        """Undo the last change; what it was, or empty where there is none. Raises InputError as put does."""
        return self._turn_back(undo=True)

    def redo(self) -> str:
        """Do again what was undone last; what it was. Raises InputError as put does."""
        return self._turn_back(undo=False)

    def _turn_back(self, undo: bool) -> str:
        with self._writing() as connection:
            change = turned(connection, undo)
            if change is None:
                return ""
            own = schema.CHANGED.c
            found = connection.execute(sa.select(schema.CHANGED).where(own.change == change.id).order_by(own.id))
            steps = []
            for row in found:
                before, after = as_row(row.before), as_row(row.after)
                steps.append(((row.table, row.key), *((after, before) if undo else (before, after))))
            for at, before, after in in_order(steps):
                take(connection, at, before, after)
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
        with told(self.path), self._engine.connect() as connection:
            yield connection

    @contextlib.contextmanager
    def _writing(self) -> Iterator[sa.Connection]:
        if self.read_only:
            raise DiskError(self.read_only, str(self.path), "nothing was changed")
        with told(self.path), changing(self._engine) as connection:
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


def _all(connection: sa.Connection) -> Iterator[tuple[tuple[str, str], Row]]:
    for table in schema.HELD:
        for row in connection.execute(sa.select(table)):
            yield (table.name, row.id), dict(row._mapping)
