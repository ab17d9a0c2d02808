"""The types of answers and page settings as one JSON schema, of which the types of the scripts are made (``./moth types``)."""

import json
import sys
from typing import Any

from pydantic import TypeAdapter
from pydantic.json_schema import GenerateJsonSchema
from typing_extensions import is_typeddict

from velvet_moth.core.baking.operations import AnyStackOperation
from velvet_moth.core.blocks.drawing import BlockStroke
from velvet_moth.core.blocks.moving import BlockMove
from velvet_moth.core.document.marks import Mark
from velvet_moth.core.document.values import Value
from velvet_moth.core.editing.crafts import Craft
from velvet_moth.core.operations import AnyOperation
from velvet_moth.core.throwing.operations import AnyRuleOperation
from velvet_moth.core.throwing.placing import Aim
from velvet_moth.core.workbench.filming import Film
from velvet_moth.store.events import News
from velvet_moth.web.api import (
    answers,
    block_answers,
    catalogue_answers,
    emitter_answers,
    export_answers,
    film_answers,
    job_answers,
    mesh_answers,
    rule_answers,
    texture_answers,
)
from velvet_moth.web.pages import settings

# What says nothing to a type checker; properties are read by themselves, since one may have such a name.
_UNSAID = ("title", "default", "discriminator", "properties")
# The field that tells operations, or crafts, apart.
_TAGS = {"op", "craft"}
# What scripts call a record that the core has another name for.
NAMES = {"Node-Output": "GraphNode", "Node-Input": "NewNode"}


def schema() -> dict[str, Any]:
    """A schema with a property, and a definition, for each type."""
    every = {
        **vars(answers),
        **vars(catalogue_answers),
        **vars(texture_answers),
        **vars(mesh_answers),
        **vars(job_answers),
        **vars(film_answers),
        **vars(emitter_answers),
        **vars(export_answers),
        **vars(rule_answers),
        **vars(block_answers),
        **vars(settings),
    }
    answered = [value for value in every.values() if is_typeddict(value)]
    written: list[Any] = [*((one.__name__, one) for one in [*answered, News]), ("Value", Value), ("Mark", Mark)]
    taken: list[Any] = [
        ("Operation", AnyOperation),
        ("Craft", Craft),
        ("StackOperation", AnyStackOperation),
        ("Film", Film),
        ("Aim", Aim),
        ("BlockStroke", BlockStroke),
        ("BlockMove", BlockMove),
        ("RuleOperation", AnyRuleOperation),
    ]
    asked: Any = [(name, "serialization", TypeAdapter(one)) for name, one in written]
    asked += [(name, "validation", TypeAdapter(one)) for name, one in taken]
    roots, whole = TypeAdapter.json_schemas(asked, schema_generator=_Written)
    definitions = whole["$defs"]
    # A union has no name by itself.
    for (name, _), root in roots.items():
        definitions.setdefault(name, root)
    named = {NAMES.get(name, name): _plain(one) for name, one in sorted(definitions.items())}
    return {
        "title": "ScriptTypes",
        "description": "Every type by its name.",
        "properties": {name: {"$ref": f"#/definitions/{name}"} for name in named},
        "required": list(named),
        "additionalProperties": False,
        "definitions": named,
    }


class _Written(GenerateJsonSchema):
    """What is written is always there, save what is left out where it is empty."""

    def field_is_required(self, field: Any, total: bool) -> bool:
        if field["type"] == "dataclass-field":
            return "serialization_exclude_if" not in field
        return super().field_is_required(field, total)


def _plain(schema: Any) -> Any:
    """As the drafts have it that tools for TypeScript read: no titles, tuples by ``items``, shorter references."""
    if isinstance(schema, list):
        return [_plain(one) for one in schema]
    if not isinstance(schema, dict):
        return schema
    if "$ref" in schema:
        name = schema["$ref"].rpartition("/")[2]
        return {"$ref": f"#/definitions/{NAMES.get(name, name)}"}
    found = {key: _plain(value) for key, value in schema.items() if key not in _UNSAID}
    if not found and "properties" not in schema:
        return {"tsType": "unknown"}
    if "prefixItems" in found:
        found["items"] = found.pop("prefixItems")
    if "properties" in schema:
        found["properties"] = {name: _plain(value) for name, value in schema["properties"].items()}
        found["additionalProperties"] = False
        if not _TAGS.isdisjoint(found["properties"]):
            # What is sent may leave out what has a default, but never its tag.
            found["required"] = [
                name for name, value in schema["properties"].items() if "default" not in value or name in _TAGS
            ]
    return found


if __name__ == "__main__":
    json.dump(schema(), sys.stdout, indent=1)
