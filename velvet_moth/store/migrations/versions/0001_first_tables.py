"""Projects, graphs with revisions, textures with their bytes."""

from typing import Any

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0001"
down_revision = None
branch_labels = None
depends_on = None

NOW = sa.text("now()")


def _moment(name: str, nullable: bool = False) -> sa.Column[Any]:
    """A point in time; one that may not be empty is set by the database."""
    return sa.Column(name, sa.DateTime(timezone=True), nullable=nullable, server_default=None if nullable else NOW)


def upgrade() -> None:
    op.create_table(
        "projects",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("name", sa.String(80), nullable=False, unique=True),
    )
    op.create_table(
        "graphs",
        sa.Column("id", sa.Integer, primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False, index=True),
        sa.Column("title", sa.String(80), nullable=False),
        sa.Column("revision", sa.Integer, nullable=False),
        sa.Column("document", JSONB, nullable=False),
        sa.Column("undo", ARRAY(sa.BigInteger), nullable=False),
        sa.Column("redo", ARRAY(sa.BigInteger), nullable=False),
        _moment("created"),
        _moment("changed"),
        _moment("deleted", nullable=True),
    )
    op.create_table(
        "revisions",
        sa.Column("id", sa.BigInteger, primary_key=True),
        sa.Column("graph_id", sa.Integer, sa.ForeignKey("graphs.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer, nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("operation", JSONB, nullable=False),
        sa.Column("inverse", JSONB, nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        _moment("made"),
        sa.UniqueConstraint("graph_id", "number"),
    )
    op.create_table(
        "blobs",
        sa.Column("sha256", sa.String(64), primary_key=True),
        sa.Column("data", sa.LargeBinary, nullable=False),
    )
    op.create_table(
        "textures",
        sa.Column("id", sa.String(32), primary_key=True),
        sa.Column("project_id", sa.Integer, sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("role", sa.String(8), nullable=False),
        sa.Column("width", sa.Integer, nullable=False),
        sa.Column("height", sa.Integer, nullable=False),
        sa.Column("sha256", sa.String(64), sa.ForeignKey("blobs.sha256"), nullable=False),
        _moment("created"),
    )
    op.create_index("textures_by_content", "textures", ["project_id", "sha256", "role"])


def downgrade() -> None:
    for table in ("textures", "blobs", "revisions", "graphs", "projects"):
        op.drop_table(table)
