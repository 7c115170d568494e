"""The tables of a shop book as they are now; `moves` brings older books here."""

from __future__ import annotations

from sqlalchemy import Boolean, Column, Float, ForeignKey, Index, Integer, MetaData, String, Table, Text

METADATA = MetaData()

SORTS = Table(
    "sorts", METADATA,
    Column("id", String, primary_key=True),
    Column("name", String, nullable=False),
    Column("thickness", Float, nullable=False),
    Column("temper", String, nullable=False),
    Column("use", String, nullable=False),
    Column("tannage", String, nullable=False),
    Column("colour", String, nullable=False),
    Column("price", Float, nullable=False),
    Column("note", Text, nullable=False),
)  # fmt: skip
SKINS = Table(
    "skins", METADATA,
    Column("id", String, primary_key=True),
    Column("sort", String, ForeignKey("sorts.id"), nullable=False, index=True),
    Column("off", String, nullable=False),
    Column("used", Boolean, nullable=False),
    Column("hide", Text, nullable=False),
)  # fmt: skip
STOCK = Table(
    "stock", METADATA,
    Column("id", String, primary_key=True),
    Column("kind", String, nullable=False),
    Column("name", String, nullable=False),
    Column("size", Float, nullable=False),
    Column("there", Float, nullable=False),
    Column("price", Float, nullable=False),
)  # fmt: skip
ORDERS = Table(
    "orders", METADATA,
    Column("id", String, primary_key=True),
    Column("name", String, nullable=False),
    Column("whom", String, nullable=False),
    Column("wanted", String),
    Column("promised", String),
    Column("state", String, nullable=False),
    Column("note", Text, nullable=False),
)  # fmt: skip
LINES = Table(
    "lines", METADATA,
    Column("id", String, primary_key=True),
    Column("order", String, ForeignKey("orders.id"), nullable=False, index=True),
    Column("nth", Integer, nullable=False),
    Column("count", Integer, nullable=False),
    Column("job", Text, nullable=False),
)  # fmt: skip
HANDS = Table(
    "hands", METADATA,
    Column("id", String, primary_key=True),
    Column("name", String, nullable=False),
    Column("hours", Text, nullable=False),
    Column("off", Text, nullable=False),
)  # fmt: skip
WORKED = Table(
    "worked", METADATA,
    Column("id", String, primary_key=True),
    Column("order", String, nullable=False, index=True),
    Column("thing", String, nullable=False),
    Column("name", String, nullable=False),
    Column("family", String, nullable=False),
    Column("planned", Float, nullable=False),
    Column("hand", String, nullable=False),
    Column("stretches", Text, nullable=False),
    Column("done", Boolean, nullable=False),
    Column("took", Float),
    Column("used", Text, nullable=False, server_default="[]"),
)  # fmt: skip
ALTERED = Table(
    "altered", METADATA,
    Column("id", String, primary_key=True),
    Column("name", String, nullable=False),
    Column("minutes", Float),
    Column("dropped", Boolean, nullable=False),
    Column("parts", Integer, nullable=False),
    Column("after", String, nullable=False),
    Column("why", String, nullable=False, server_default=""),
)  # fmt: skip
ENTRIES = Table(
    "entries", METADATA,
    Column("id", String, primary_key=True),
    *(Column(name, String, nullable=False) for name in ("made_on", "name", "style", "leather", "line", "fit")),
    Column("minutes", Float, nullable=False),
    Column("words", Text, nullable=False),
    *(Column(name, String, nullable=False) for name in ("picture", "tannage")),
    *(Column(name, Text, nullable=False) for name in ("told", "learns", "job")),
)  # fmt: skip
SETTINGS = Table(
    "settings", METADATA,
    Column("id", String, primary_key=True),
    Column("value", String, nullable=False),
)  # fmt: skip
JOBS = Table(
    "jobs", METADATA,
    Column("id", String, primary_key=True),
    Column("name", String, nullable=False),
    Column("style", String, nullable=False),
    Column("words", Text, nullable=False),
    Column("saved", String, nullable=False),
    Column("job", Text, nullable=False),
    Index("ix_jobs_found", "saved", "words"),
)  # fmt: skip
CHANGES = Table(
    "changes", METADATA,
    Column("id", Integer, primary_key=True),
    Column("at", String, nullable=False),
    Column("said", String, nullable=False),
    Column("undone", Boolean, nullable=False),
)  # fmt: skip
CHANGED = Table(
    "changed", METADATA,
    Column("id", Integer, primary_key=True),
    Column("change", Integer, ForeignKey("changes.id", ondelete="CASCADE"), nullable=False, index=True),
    Column("table", String, nullable=False),
    Column("key", String, nullable=False),
    Column("before", Text),
    Column("after", Text),
)  # fmt: skip

# What a shop is, those that others point to first.
HELD = (SORTS, SKINS, STOCK, ORDERS, LINES, HANDS, WORKED, ALTERED, ENTRIES, SETTINGS)
