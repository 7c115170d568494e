"""Why a maker changed a step, in his words."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "7"
down_revision = "6"


def upgrade() -> None:
    op.add_column("altered", sa.Column("why", sa.String, nullable=False, server_default=""))
