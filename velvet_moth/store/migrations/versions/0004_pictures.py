"""Files of textures in chunks, their levels made once, how each is read, and recipes that make them."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import JSONB

revision = "0004"
down_revision = "0003"
branch_labels = None
depends_on = None


def upgrade() -> None:
    op.create_table(
        "blob_chunks",
        sa.Column("sha256", sa.String(64), sa.ForeignKey("blobs.sha256", ondelete="CASCADE"), primary_key=True),
        sa.Column("number", sa.Integer(), primary_key=True),
        sa.Column("data", sa.LargeBinary(), nullable=False),
    )
    # Pictures are compressed already: trying again costs time and gains nothing.
    op.execute("alter table blob_chunks alter column data set storage external")
    op.add_column("blobs", sa.Column("size", sa.BigInteger(), nullable=True))
    op.execute(
        "insert into blob_chunks (sha256, number, data)"
        " select sha256, n, substring(data from n * 1048576 + 1 for 1048576)"
        " from blobs, generate_series(0, (length(data) - 1) / 1048576) as n"
    )
    op.execute("update blobs set size = length(data)")
    op.alter_column("blobs", "size", nullable=False)
    op.drop_column("blobs", "data")
    op.create_table(
        "levels",
        sa.Column("sha256", sa.String(64), sa.ForeignKey("blobs.sha256", ondelete="CASCADE"), primary_key=True),
        sa.Column("way", sa.String(16), primary_key=True),
        sa.Column("levels", sa.String(64), sa.ForeignKey("blobs.sha256"), nullable=False),
    )
    # Every texture so far was kept as an 8-bit PNG with alpha.
    op.add_column("textures", sa.Column("format", sa.String(8), server_default="png", nullable=False))
    op.add_column("textures", sa.Column("channels", sa.Integer(), server_default="4", nullable=False))
    op.add_column("textures", sa.Column("depth", sa.String(8), server_default="uint8", nullable=False))
    op.add_column("textures", sa.Column("green", sa.String(4), server_default="up", nullable=False))
    op.add_column("textures", sa.Column("revision", sa.Integer(), server_default="0", nullable=False))
    op.create_table(
        "recipes",
        sa.Column("id", sa.Integer(), primary_key=True),
        sa.Column("project_id", sa.Integer(), sa.ForeignKey("projects.id"), nullable=False),
        sa.Column("name", sa.String(80), nullable=False),
        sa.Column("document", JSONB(), nullable=False),
        sa.Column("revision", sa.Integer(), nullable=False),
        sa.Column("created", sa.DateTime(timezone=True), server_default=sa.func.now(), nullable=False),
    )
    op.add_column("textures", sa.Column("recipe_id", sa.Integer(), sa.ForeignKey("recipes.id"), nullable=True))
    op.add_column("textures", sa.Column("output", sa.String(32), nullable=True))
    op.add_column("textures", sa.Column("deleted", sa.DateTime(timezone=True), nullable=True))


def downgrade() -> None:
    for column in ("deleted", "output", "recipe_id", "revision", "green", "depth", "channels", "format"):
        op.drop_column("textures", column)
    op.drop_table("recipes")
    op.drop_table("levels")
    op.add_column("blobs", sa.Column("data", sa.LargeBinary(), nullable=True))
    op.execute(
        "update blobs set data = (select string_agg(data, ''::bytea order by number) from blob_chunks c"
        " where c.sha256 = blobs.sha256)"
    )
    op.alter_column("blobs", "data", nullable=False)
    op.drop_column("blobs", "size")
    op.drop_table("blob_chunks")
