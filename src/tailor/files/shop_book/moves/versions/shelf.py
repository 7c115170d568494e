"""Every job that was saved, to be found again."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "2"
down_revision = "1"


def upgrade() -> None:
    op.create_table(
        "jobs", sa.Column("id", sa.String, primary_key=True), sa.Column("name", sa.String, nullable=False),
        sa.Column("style", sa.String, nullable=False), sa.Column("words", sa.Text, nullable=False),
        sa.Column("saved", sa.String, nullable=False), sa.Column("job", sa.Text, nullable=False),
    )  # fmt: skip
    op.create_index("ix_jobs_found", "jobs", ["saved", "words"])  # what is looked through lies together
