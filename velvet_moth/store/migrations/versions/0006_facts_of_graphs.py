"""What lists need of graphs in columns, and a word for each state that no other state has."""

import sqlalchemy as sa
from alembic import op
from sqlalchemy.dialects.postgresql import ARRAY, JSONB

revision = "0006"
down_revision = "0005"
branch_labels = None
depends_on = None

NAMES = ("state", "nodes", "variants", "kind", "uses", "reads", "wears", "trouble")


def upgrade() -> None:
    op.add_column(
        "graphs", sa.Column("state", sa.String(32), server_default=sa.text("md5(random()::text)"), nullable=False)
    )
    op.add_column("graphs", sa.Column("nodes", sa.Integer, server_default="0", nullable=False))
    op.add_column("graphs", sa.Column("variants", JSONB, server_default="[]", nullable=False))
    op.add_column("graphs", sa.Column("kind", sa.String(32), server_default="solid", nullable=False))
    for name in ("uses", "reads", "wears"):
        op.add_column("graphs", sa.Column(name, ARRAY(sa.String(64)), server_default="{}", nullable=False))
    op.add_column("graphs", sa.Column("trouble", sa.String(600), nullable=True))
    op.create_index("graphs_by_change", "graphs", ["project_id", "changed", "id"])
    # Lax paths find nothing where a document is not as it should be.
    op.execute(
        """
        update graphs set
          nodes = greatest(0, (select count(*) from jsonb_path_query(document, '$.nodes[*]')) - 1),
          variants = coalesce(jsonb_path_query_array(document, '$.variants[*]') , '[]'),
          kind = left(coalesce(document->>'kind', 'solid'), 32),
          uses = array(select distinct left(n->>'type', 64) from jsonb_path_query(document, '$.nodes[*]') n
                       where n ? 'outline' and n->>'type' is not null),
          reads = array(select distinct left(v #>> '{}', 64) from (
                          select jsonb_path_query(document, '$.nodes[*].values.*') v
                          union all select jsonb_path_query(document, '$.variants[*].values.*')
                          union all select document->'surroundings') every
                        where jsonb_typeof(v) = 'string' and v #>> '{}' <> ''),
          wears = array(select distinct left(w->>'graph', 64) from jsonb_path_query(document, '$.wears[*]') w
                        where w->>'graph' is not null)
        """
    )
    op.execute(
        """
        update graphs set variants = coalesce(
          (select jsonb_agg(jsonb_build_array(v->>'id', v->>'name')) from jsonb_array_elements(variants) v), '[]')
        """
    )


def downgrade() -> None:
    op.drop_index("graphs_by_change", "graphs")
    for name in reversed(NAMES):
        op.drop_column("graphs", name)
