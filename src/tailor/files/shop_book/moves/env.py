"""Where the moves are run: on the connection that they are given."""

from __future__ import annotations

from alembic import context

context.configure(connection=context.config.attributes["connection"], transactional_ddl=True)
with context.begin_transaction():
    context.run_migrations()
