"""Textures that are baked from a mesh know what of, so that they follow it."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0014"
down_revision = "0013"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.add_column("textures", sa.Column("baked", JSONB(none_as_null=True)))


def downgrade() -> None:
    op.drop_column("textures", "baked")
