"""Operations that set a field are called by the field; the column of the graphs that a backdrop shows says so."""

import json
from typing import Any

import sqlalchemy as sa
from alembic import op

revision = "0007"
down_revision = "0006"
branch_labels = None
depends_on = None

# The old name of each operation, with the key of its value, and the field it sets.
FIELDS = {
    "rename": ("title", "title"),
    "choose_form": ("form", "form"),
    "set_decals": ("decals", "decals"),
    "set_wears": ("wears", "backdrop_materials"),
    "set_surroundings": ("texture", "environment"),
    "set_views": ("views", "views"),
}
MOST_AT_ONCE = 500


def with_cutoff(data: Any) -> Any:
    """The same plain data with the channel of the alpha cutoff under its new key."""
    if isinstance(data, list):
        return [with_cutoff(one) for one in data]
    if not isinstance(data, dict):
        return data
    return {
        "alpha_cutoff" if key == "cut_at" else key: (
            "alpha_cutoff" if key == "input" and value == "cut_at" else with_cutoff(value)
        )
        for key, value in data.items()
    }


def renamed(operation: dict[str, Any]) -> dict[str, Any]:
    """An operation of the history under its new name."""
    if "operations" in operation:
        return {**operation, "operations": [renamed(one) for one in operation["operations"]]}
    name = operation.get("op")
    if name == "set_scene":
        return {"op": f"set_{operation['part']}", "value": operation["value"]}
    if name in FIELDS and FIELDS[name][0] in operation:
        key, field = FIELDS[name]
        return {"op": f"set_{field}", "value": operation[key]}
    return operation


def upgrade() -> None:
    op.alter_column("graphs", "wears", new_column_name="backdrop_graphs")
    rows = op.get_bind()
    old = [*FIELDS, "set_scene", "cut_at"]
    # The search is in the text of the JSON, so that operations inside batches are found. Rows come in the order of ids.
    wanted = " or ".join(f"operation::text like '%\"{name}\"%' or inverse::text like '%\"{name}\"%'" for name in old)
    found = sa.text(
        f"select id, operation, inverse from revisions where id > :last and ({wanted}) order by id limit :most"
    )
    change = sa.text(
        "update revisions set operation = cast(:operation as jsonb), inverse = cast(:inverse as jsonb) where id = :id"
    )
    last = -1
    while some := rows.execute(found, {"last": last, "most": MOST_AT_ONCE}).all():
        for row in some:
            made = {
                "operation": json.dumps(renamed(with_cutoff(row.operation))),
                "inverse": json.dumps(renamed(with_cutoff(row.inverse))),
            }
            rows.execute(change, {"id": row.id, **made})
        last = some[-1].id


def downgrade() -> None:
    op.alter_column("graphs", "backdrop_graphs", new_column_name="wears")
