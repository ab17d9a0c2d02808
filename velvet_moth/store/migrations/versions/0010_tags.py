"""Tags of graphs, to find them by in the library."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY

revision = "0010"
down_revision = "0009"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("graphs", sa.Column("tags", ARRAY(sa.String(64)), server_default="{}", nullable=False))
    op.alter_column("graphs", "tags", server_default=None)
    op.create_index("graphs_by_tag", "graphs", ["tags"], postgresql_using="gin")


def downgrade() -> None:
    op.drop_index("graphs_by_tag", "graphs")
    op.drop_column("graphs", "tags")
