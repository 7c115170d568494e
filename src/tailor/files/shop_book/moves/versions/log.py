"""How each thing came out."""

from __future__ import annotations

import sqlalchemy as sa
from alembic import op

revision = "5"
down_revision = "4"


def upgrade() -> None:
    op.create_table(
        "entries", sa.Column("id", sa.String, primary_key=True),
        *(
            sa.Column(name, sa.String, nullable=False)
            for name in ("made_on", "name", "style", "leather", "line", "fit")
        ),
        sa.Column("minutes", sa.Float, nullable=False), sa.Column("words", sa.Text, nullable=False),
        *(sa.Column(name, sa.String, nullable=False) for name in ("picture", "tannage")),
        *(sa.Column(name, sa.Text, nullable=False) for name in ("told", "learns", "job")),
    )  # fmt: skip
