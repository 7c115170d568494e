"""Who works in the shop, and when."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "3"
down_revision = "2"


def upgrade() -> None:
    op.create_table(
        "hands", sa.Column("id", sa.String, primary_key=True), sa.Column("name", sa.String, nullable=False),
        sa.Column("hours", sa.Text, nullable=False), sa.Column("off", sa.Text, nullable=False),
    )  # fmt: skip
