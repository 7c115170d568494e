"""What was done of each step, and when."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "4"
down_revision = "3"


def upgrade() -> None:
    op.create_table(
        "worked", sa.Column("id", sa.String, primary_key=True), sa.Column("order", sa.String, nullable=False),
        sa.Column("thing", sa.String, nullable=False), sa.Column("name", sa.String, nullable=False),
        sa.Column("family", sa.String, nullable=False), sa.Column("planned", sa.Float, nullable=False),
        sa.Column("hand", sa.String, nullable=False), sa.Column("stretches", sa.Text, nullable=False),
        sa.Column("done", sa.Boolean, nullable=False), sa.Column("took", sa.Float),
    )  # fmt: skip
    op.create_index("ix_worked_order", "worked", ["order"])
