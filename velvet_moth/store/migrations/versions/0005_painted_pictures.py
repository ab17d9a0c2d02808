"""Pictures of graphs, painted once and kept."""

import sqlalchemy as sa
from alembic import op

revision = "0005"
down_revision = "0004"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "painted_pictures",
        sa.Column("mark", sa.String(64), primary_key=True),
        sa.Column("graph_id", sa.Integer(), sa.ForeignKey("graphs.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("png", sa.LargeBinary(), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )


def downgrade() -> None:
    op.drop_table("painted_pictures")
