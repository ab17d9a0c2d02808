"""Rules of placing with their edits, and what came of many throws by one."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0017"
down_revision = "0016"
branch_labels = None
depends_on = None


def upgrade() -> None:
    now = sa.func.now()
    op.create_table(
        "rules",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("project_id", sa.Integer(), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("undo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("redo", ARRAY(sa.BigInteger()), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("changed", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.Column("deleted", sa.DateTime(timezone=True)),
    )
    op.create_table(
        "rule_revisions",
        sa.Column("id", sa.BigInteger(), primary_key=True),
        sa.Column("rule_id", sa.Integer(), sa.ForeignKey("rules.id", ondelete="CASCADE"), nullable=False),
        sa.Column("number", sa.Integer(), nullable=False),
        sa.Column("kind", sa.String(8), nullable=False),
        sa.Column("operation", JSONB(), nullable=False),
        sa.Column("inverse", JSONB(), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=now, nullable=False),
        sa.UniqueConstraint("rule_id", "number"),
    )
    op.create_table(
        "judgements",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("graph_id", sa.Integer(), sa.ForeignKey("graphs.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("found", JSONB(), nullable=False),
        sa.Column("sheet", sa.LargeBinary(), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=now, nullable=False),
    )


def downgrade() -> None:
    op.drop_table("judgements")
    op.drop_table("rule_revisions")
    op.drop_table("rules")
