"""Films of graphs, in chunks; and textures that are sheets of frames."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0016"
down_revision = "0015"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "films",
        sa.Column("id", sa.String(16), primary_key=True),
        sa.Column("graph_id", sa.Integer(), sa.ForeignKey("graphs.id", ondelete="CASCADE"), nullable=False, index=True),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("film", JSONB(), nullable=False),
        sa.Column("words", sa.String(400), nullable=False),
        sa.Column("size", sa.BigInteger(), nullable=False),
        sa.Column("made", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.create_table(
        "film_chunks",
        sa.Column("film_id", sa.String(16), sa.ForeignKey("films.id", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
    op.add_column("textures", sa.Column("frames", JSONB(none_as_null=True)))


def downgrade() -> None:
    op.drop_column("textures", "frames")
    op.drop_table("film_chunks")
    op.drop_table("films")
