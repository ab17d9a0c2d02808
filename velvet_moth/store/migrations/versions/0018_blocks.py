"""Block models with their chunks and their edits."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0018"
down_revision = "0017"
branch_labels = None
depends_on = None


def upgrade() -> None:
    now = sa.func.now()
    op.create_table(
        "block_models",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("project_id", sa.Integer(), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("state", sa.String(32), nullable=False),
        sa.Column("settings", JSONB(), nullable=False),
        sa.Column("count", sa.Integer(), nullable=False),
        sa.Column("mesh", sa.String(32), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("undo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("redo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("changed", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("deleted", sa.DateTime(timezone=True)),
    )
    op.create_table(
        "block_chunks",
        sa.Column("model_id", sa.Integer(), sa.ForeignKey("block_models.id", ondelete="CASCADE"), primary_key=True),
        *(sa.Column(axis, sa.SmallInteger(), primary_key=True) for axis in "xyz"),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
    op.create_table(
        "block_revisions",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("model_id", sa.Integer(), sa.ForeignKey("block_models.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("operation", JSONB(), nullable=False),
        sa.Column("inverse", JSONB(), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.UniqueConstraint("model_id", "number"),
    )


def downgrade() -> None:
    op.drop_table("block_revisions")
    op.drop_table("block_chunks")
    op.drop_table("block_models")
