"""Graphs that are motifs, by the type of the nodes that use them."""

import sqlalchemy as sa
from alembic import op

revision = "0002"
down_revision = "0001"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("graphs", sa.Column("motif", sa.String(32), nullable=True))
    op.create_unique_constraint("one_motif_a_type", "graphs", ["project_id", "motif"])


def downgrade() -> None:
    op.drop_constraint("one_motif_a_type", "graphs")
    op.drop_column("graphs", "motif")
