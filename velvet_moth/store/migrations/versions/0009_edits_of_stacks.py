"""Stacks change by operations, are kept as they are edited, and are made into textures when asked."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0009"
down_revision = "0008"
branch_labels = None
depends_on = None


def upgrade() -> None:
    for name in ("undo", "redo"):
        op.add_column("recipes", sa.Column(name, ARRAY(sa.BigInteger()), server_default="{}", nullable=False))
        op.alter_column("recipes", name, server_default=None)
    op.add_column(
        "recipes", sa.Column("changed", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False)
    )
    op.add_column("recipes", sa.Column("deleted", sa.DateTime(timezone=True)))
    op.add_column("recipes", sa.Column("made", JSONB()))
    # Until now a stack was only kept together with its textures.
    op.execute("update recipes set made = document")
    op.create_table(
        "recipe_revisions",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("recipe_id", sa.Integer(), sa.ForeignKey("recipes.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("operation", JSONB(), nullable=False),
        sa.Column("inverse", JSONB(), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("recipe_id", "number"),
    )


def downgrade() -> None:
    op.drop_table("recipe_revisions")
    # What was edited since and never made would change textures at the next edit.
    op.execute("update recipes set document = made where made is not null")
    op.execute("delete from recipes where made is null")
    for name in ("made", "deleted", "changed", "redo", "undo"):
        op.drop_column("recipes", name)
