"""Operations on variants and what they override."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.base.records import NoteText, Whole
from velvet_moth.core.document.checks import check_new_id, checked_name, checked_note
from velvet_moth.core.document.graph import MOST_VARIANTS, Graph, Variant
from velvet_moth.core.document.values import Name, ParameterId, Value, VariantId, shown_value
from velvet_moth.core.operations.checks import without
from velvet_moth.core.operations.operation import Applied, Operation
from velvet_moth.core.operations.parameters import check_override, parameter_of
from velvet_moth.core.operations.tracks import checked_tracks


def _variant(graph: Graph, key: str) -> Variant:
    found = graph.variant(key)
    if found is None:
        raise OperationRefused("This variant is gone.", key, "Undo brings it back.")
    return found


def _checked_variant(graph: Graph, variant: Variant) -> Variant:
    name = checked_name(variant.name, "variant")
    if any(v.name == name and v.id != variant.id for v in graph.variants):
        raise OperationRefused("Another variant has this name.", name, "Choose another name.")
    return replace(variant, name=name)


def _check_told(graph: Graph, variant: Variant) -> None:
    """A variant is based on one that is there, and never on itself, be it through others; its note is short."""
    checked_note(variant.note, variant.name)
    if variant.base and graph.variant(variant.base) is None:
        raise OperationRefused("The variant it is based on is gone.", variant.name, "Choose another, or the defaults.")
    by_id = {v.id: v for v in graph.variants}
    line, key = {variant.id}, variant.base
    while found := by_id.get(key):
        if found.id in line:
            raise OperationRefused(
                f"{found.name} is based on {variant.name} itself.", variant.name, "Choose another, or the defaults."
            )
        line.add(found.id)
        key = found.base


@dataclass(frozen=True)
class AddVariant(Operation):
    """Adds a variant, empty or with values."""

    variant: Variant
    at: Whole | None = None
    op: Literal["add_variant"] = "add_variant"

    def apply(self, graph: Graph) -> Applied:
        made = replace(_checked_variant(graph, self.variant), note=self.variant.note.strip())
        check_new_id(made.id, {v.id for v in graph.variants}, "variant")
        if len(graph.variants) >= MOST_VARIANTS:
            raise OperationRefused(f"A graph has at most {MOST_VARIANTS} variants.", made.name, "Remove one first.")
        for key, value in made.values.items():
            check_override(graph, parameter_of(graph, key), value)
        _check_told(graph, made)
        made = replace(made, tracks=checked_tracks(graph, made.tracks, made.name))
        at = len(graph.variants) if self.at is None else max(0, min(self.at, len(graph.variants)))
        return replace(graph, variants=(*graph.variants[:at], made, *graph.variants[at:])), RemoveVariant(made.id)

    def words(self, graph: Graph) -> str:
        return f"added variant {self.variant.name}"


@dataclass(frozen=True)
class RenameVariant(Operation):
    """Renames a variant."""

    variant: VariantId
    name: Name
    op: Literal["rename_variant"] = "rename_variant"

    def apply(self, graph: Graph) -> Applied:
        before = _variant(graph, self.variant)
        made = _checked_variant(graph, replace(before, name=self.name))
        after = replace(graph, variants=tuple(made if v.id == made.id else v for v in graph.variants))
        return after, RenameVariant(before.id, before.name)

    def words(self, graph: Graph) -> str:
        return f"named a variant {self.name}"


@dataclass(frozen=True)
class DescribeVariant(Operation):
    """Says what a variant is based on ("" for the graph's defaults), and what is noted about it."""

    variant: VariantId
    base: VariantId
    note: NoteText
    op: Literal["describe_variant"] = "describe_variant"

    def apply(self, graph: Graph) -> Applied:
        before = _variant(graph, self.variant)
        made = replace(before, base=self.base, note=self.note.strip())
        _check_told(graph, made)
        after = replace(graph, variants=tuple(made if v.id == made.id else v for v in graph.variants))
        return after, DescribeVariant(before.id, before.base, before.note)

    def words(self, graph: Graph) -> str:
        found = graph.variant(self.variant)
        return f"described variant {found.name if found else ''}".rstrip()


@dataclass(frozen=True)
class RemoveVariant(Operation):
    """Removes a variant that no other one is based on."""

    variant: VariantId
    op: Literal["remove_variant"] = "remove_variant"

    def apply(self, graph: Graph) -> Applied:
        found = _variant(graph, self.variant)
        others = [v.name for v in graph.variants if v.base == found.id]
        if others:
            raise OperationRefused(
                f"{', '.join(others)} {'is' if len(others) == 1 else 'are'} based on it.",
                found.name,
                "Base them on something else first.",
            )
        after = replace(graph, variants=tuple(v for v in graph.variants if v.id != found.id))
        return after, AddVariant(found, graph.variants.index(found))

    def words(self, graph: Graph) -> str:
        found = graph.variant(self.variant)
        return f"removed variant {found.name if found else ''}".rstrip()


@dataclass(frozen=True)
class SetOverride(Operation):
    """Sets a parameter in one variant; None takes it back to the graph's default."""

    variant: VariantId
    parameter: ParameterId
    value: Value | None
    op: Literal["set_override"] = "set_override"

    def apply(self, graph: Graph) -> Applied:
        variant, parameter = _variant(graph, self.variant), parameter_of(graph, self.parameter)
        values = without(variant.values, parameter.id)
        if self.value is not None:
            check_override(graph, parameter, self.value)
            values[parameter.id] = self.value
        made = replace(variant, values=values)
        after = replace(graph, variants=tuple(made if v.id == made.id else v for v in graph.variants))
        return after, SetOverride(variant.id, parameter.id, variant.values.get(parameter.id))

    def words(self, graph: Graph) -> str:
        variant, parameter = graph.variant(self.variant), graph.parameter(self.parameter)
        if variant is None or parameter is None:
            return "set a parameter"
        if self.value is None:
            return f"reset {parameter.name} of {variant.name}"
        return f"set {parameter.name} of {variant.name} to {shown_value(self.value)}"


def adding(variants: Sequence[Variant]) -> list[AddVariant | DescribeVariant]:
    """What adds variants in their order, whichever is based on which."""
    bare = [AddVariant(replace(v, base="")) for v in variants]
    return [*bare, *(DescribeVariant(v.id, v.base, v.note) for v in variants if v.base)]


def removing(variants: Sequence[Variant]) -> list[RemoveVariant | DescribeVariant]:
    """What removes variants, whichever is based on which."""
    free = [DescribeVariant(v.id, "", v.note) for v in variants if v.base]
    return [*free, *(RemoveVariant(v.id) for v in variants)]
