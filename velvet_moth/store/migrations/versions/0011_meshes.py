"""Meshes that were brought in, and which of them a graph stands on."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0011"
down_revision = "0010"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "meshes",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("project_id", sa.Integer(), sa.ForeignKey("projects.id"), nullable=False, index=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("format", sa.String(8), nullable=False),
        sa.Column("files", JSONB(), nullable=False),
        sa.Column("up", sa.String(1), nullable=False),
        sa.Column("unit", sa.String(2), nullable=False),
        sa.Column("smooth_below", sa.Float(), nullable=False),
        sa.Column("notes", ARRAY(sa.String(400)), nullable=False),
        sa.Column("facts", JSONB(), nullable=False),
        sa.Column("has_uvs", sa.Boolean(), nullable=False),
        sa.Column("depth", sa.String(8), nullable=False),
        sa.Column("packed", sa.String(64), sa.ForeignKey("blobs.sha256"), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
        sa.Column("deleted", sa.DateTime(timezone=True)),
    )
    op.add_column("graphs", sa.Column("mesh", sa.String(32), server_default="", nullable=False))
    op.alter_column("graphs", "mesh", server_default=None)
    op.create_index("graphs_by_mesh", "graphs", ["mesh"])


def downgrade() -> None:
    op.drop_index("graphs_by_mesh", "graphs")
    op.drop_column("graphs", "mesh")
    op.drop_table("meshes")
