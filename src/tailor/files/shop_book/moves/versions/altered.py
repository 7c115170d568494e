"""What a maker changed of the steps that were derived."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "6"
down_revision = "5"


def upgrade() -> None:
    op.create_table(
        "altered", sa.Column("id", sa.String, primary_key=True), sa.Column("name", sa.String, nullable=False),
        sa.Column("minutes", sa.Float), sa.Column("dropped", sa.Boolean, nullable=False),
        sa.Column("parts", sa.Integer, nullable=False), sa.Column("after", sa.String, nullable=False),
    )  # fmt: skip
