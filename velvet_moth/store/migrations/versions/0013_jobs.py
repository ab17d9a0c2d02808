"""Long work as jobs: the queue that workers take them from, and what pages are shown of each."""

import sqlalchemy as sa
from alembic import op
from procrastinate.schema import SchemaManager
from sqlalchemy.dialects.postgresql import JSONB

revision = "0013"
down_revision = "0012"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # As the driver takes it: the queue's own functions hold signs that stand for values elsewhere.
    op.get_bind().connection.cursor().execute(SchemaManager.get_schema().encode())
    op.create_table(
        "jobs",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("kind", sa.String(32), nullable=False),
        sa.Column("title", sa.String(120), nullable=False),
        sa.Column("subject", sa.String(32), nullable=False),
        sa.Column("arguments", JSONB(), nullable=False),
        sa.Column("state", sa.String(12), nullable=False, index=True),
        sa.Column("share", sa.Float(), nullable=False),
        sa.Column("words", sa.String(600), nullable=False),
        sa.Column("asked", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("started", sa.DateTime(timezone=True)),
        sa.Column("ended", sa.DateTime(timezone=True)),
    )


def downgrade() -> None:
    op.drop_table("jobs")
    names = (
        "select 'drop table if exists ' || tablename || ' cascade' from pg_tables where tablename like 'procrastinate%'"
    )
    bind = op.get_bind()
    for (statement,) in bind.exec_driver_sql(names.replace("%", "%%")).fetchall():
        bind.exec_driver_sql(statement)
    functions = "select 'drop function if exists ' || oid::regprocedure || ' cascade' from pg_proc where proname like 'procrastinate%%'"
    for (statement,) in bind.exec_driver_sql(functions).fetchall():
        bind.exec_driver_sql(statement)
    types = (
        "select 'drop type if exists ' || typname || ' cascade' from pg_type"
        " where typname like 'procrastinate%%' and typtype in ('e', 'c')"
    )
    for (statement,) in bind.exec_driver_sql(types).fetchall():
        bind.exec_driver_sql(statement)
