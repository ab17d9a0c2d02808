"""Painted pictures by the state they show and the program that painted them, so that others can stand in."""

import sqlalchemy as sa
from alembic import op

revision = "0008"
down_revision = "0007"
branch_labels = None
depends_on = None


def upgrade() -> None:
    # Which state an older picture shows cannot be found out; it is painted again.
    op.execute("delete from painted_pictures")
    op.drop_constraint("painted_pictures_pkey", "painted_pictures")
    op.alter_column("painted_pictures", "mark", new_column_name="state")
    op.add_column("painted_pictures", sa.Column("program", sa.String(16), nullable=False))
    op.create_primary_key("painted_pictures_pkey", "painted_pictures", ["state", "program"])


def downgrade() -> None:
    op.execute("delete from painted_pictures")
    op.drop_constraint("painted_pictures_pkey", "painted_pictures")
    op.drop_column("painted_pictures", "program")
    op.alter_column("painted_pictures", "state", new_column_name="mark")
    op.create_primary_key("painted_pictures_pkey", "painted_pictures", ["mark"])
