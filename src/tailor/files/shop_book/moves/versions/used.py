"""What was taken off the shelves for a step, when it was done."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "8"
down_revision = "7"


def upgrade() -> None:
    op.add_column("worked", sa.Column("used", sa.Text, nullable=False, server_default="[]"))
