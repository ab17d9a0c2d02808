"""Graphs baked for other programs, kept for a while."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0019"
down_revision = "0018"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "baked_files",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("graph_id", sa.Integer(), sa.ForeignKey("graphs.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("found", JSONB(), nullable=False),
        sa.Column("data", sa.LargeBinary(), nullable=False),
        sa.Column("sides", sa.LargeBinary(), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("baked_files")
