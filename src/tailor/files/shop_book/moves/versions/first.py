"""Leathers, skins, stock, orders, how the shop reckons, and every change with what was before it."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "1"
down_revision = None


def _text(name: str, needed: bool = True) -> sa.Column[str]:
    return sa.Column(name, sa.String, nullable=not needed)


def _number(name: str) -> sa.Column[float]:
    return sa.Column(name, sa.Float, nullable=False)


def upgrade() -> None:
    op.create_table(
        "sorts", sa.Column("id", sa.String, primary_key=True), _text("name"), _number("thickness"), _text("temper"),
        _text("use"), _text("tannage"), _text("colour"), _number("price"), sa.Column("note", sa.Text, nullable=False),
    )  # fmt: skip
    op.create_table(
        "skins", sa.Column("id", sa.String, primary_key=True),
        sa.Column("sort", sa.String, sa.ForeignKey("sorts.id"), nullable=False), _text("off"),
        sa.Column("used", sa.Boolean, nullable=False), sa.Column("hide", sa.Text, nullable=False),
    )  # fmt: skip
    op.create_index("ix_skins_sort", "skins", ["sort"])
    op.create_table(
        "stock", sa.Column("id", sa.String, primary_key=True), _text("kind"), _text("name"), _number("size"),
        _number("there"), _number("price"),
    )  # fmt: skip
    op.create_table(
        "orders", sa.Column("id", sa.String, primary_key=True), _text("name"), _text("whom"),
        _text("wanted", needed=False), _text("promised", needed=False), _text("state"),
        sa.Column("note", sa.Text, nullable=False),
    )  # fmt: skip
    op.create_table(
        "lines", sa.Column("id", sa.String, primary_key=True),
        sa.Column("order", sa.String, sa.ForeignKey("orders.id"), nullable=False),
        sa.Column("nth", sa.Integer, nullable=False), sa.Column("count", sa.Integer, nullable=False),
        sa.Column("job", sa.Text, nullable=False),
    )  # fmt: skip
    op.create_index("ix_lines_order", "lines", ["order"])
    op.create_table("settings", sa.Column("id", sa.String, primary_key=True), _text("value"))
    op.create_table(
        "changes", sa.Column("id", sa.Integer, primary_key=True), _text("at"), _text("said"),
        sa.Column("undone", sa.Boolean, nullable=False),
    )  # fmt: skip
    op.create_table(
        "changed", sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("change", sa.Integer, sa.ForeignKey("changes.id", ondelete="CASCADE"), nullable=False),
        _text("table"), _text("key"), sa.Column("before", sa.Text), sa.Column("after", sa.Text),
    )  # fmt: skip
    op.create_index("ix_changed_change", "changed", ["change"])
