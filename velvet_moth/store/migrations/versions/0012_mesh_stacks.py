"""Stacks of steps on meshes, and what the channels of a mesh mean."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0012"
down_revision = "0011"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "mesh_stacks",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("mesh", sa.String(32), sa.ForeignKey("meshes.id"), nullable=False, unique=True),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("made", JSONB()),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("undo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("redo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("changed", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("deleted", sa.DateTime(timezone=True)),
    )
    op.create_table(
        "mesh_stack_revisions",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("stack_id", sa.Integer(), sa.ForeignKey("mesh_stacks.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("operation", JSONB(), nullable=False),
        sa.Column("inverse", JSONB(), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.UniqueConstraint("stack_id", "number"),
    )
    op.add_column("meshes", sa.Column("base", sa.String(64), sa.ForeignKey("blobs.sha256")))
    op.add_column("meshes", sa.Column("channels", JSONB(), server_default="{}", nullable=False))
    op.add_column("meshes", sa.Column("levels", JSONB(), server_default="[]", nullable=False))
    op.execute("update meshes set base = packed")
    given = '{"red": "", "green": "", "blue": "", "alpha": ""}'
    op.execute(f"update meshes set channels = '{given}' where depth <> ''")
    op.alter_column("meshes", "base", nullable=False)
    op.alter_column("meshes", "channels", server_default=None)
    op.alter_column("meshes", "levels", server_default=None)


def downgrade() -> None:
    op.drop_column("meshes", "levels")
    op.drop_column("meshes", "channels")
    op.drop_column("meshes", "base")
    op.drop_table("mesh_stack_revisions")
    op.drop_table("mesh_stacks")
