"""Operations drawn at random, for tests that must hold whatever is done."""

import random

from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph, Node, Parameter, Variant
from velvet_moth.core.document.marks import Frame, Note
from velvet_moth.core.operations import (
    AddNode,
    AddParameter,
    AddVariant,
    ChooseForm,
    EditParameter,
    LabelNode,
    MoveNodes,
    MuteNodes,
    Operation,
    OrderParameter,
    PutMarks,
    RemoveNodes,
    RemoveParameter,
    RemoveVariant,
    Rename,
    RenameVariant,
    SetOverride,
    SetScene,
    SetValue,
    Unwire,
    Wire,
)


def random_operation(graph: Graph, draw: random.Random) -> Operation:
    """Some operation that may or may not fit."""
    nodes = list(graph.nodes.values())
    node, other = draw.choice(nodes), draw.choice(nodes)
    key = draw.choice(list(node.kind.inputs) or ["none"])
    parameter = draw.choice(graph.parameters).id if graph.parameters else "none"
    variant = draw.choice(graph.variants).id if graph.variants else "none"
    name = f"n{draw.randrange(40)}"
    number = draw.uniform(-2, 2)
    return draw.choice(
        [
            AddNode(Node(name, draw.choice(list(CATALOGUE)), place=(number, 2.0))),
            RemoveNodes((node.id, other.id) if node is not other else (node.id,)),
            Wire(node.id, key, other.id, draw.choice(list(other.kind.outputs))),
            Wire(node.id, key, other.id, draw.choice(list(other.kind.outputs)), "x"),
            Unwire(node.id, key),
            MuteNodes((node.id,), draw.random() < 0.5),
            PutMarks((Frame(f"f{draw.randrange(3)}", name, (node.id, other.id)),)),
            PutMarks((Note("words", name, (number, number)),), tuple(graph.marks)[:1]),
            SetValue(node.id, key, tuple([number] * draw.choice((1, 2, 3)))),
            SetValue(node.id, key, None),
            LabelNode(node.id, name),
            MoveNodes({node.id: (number, number)}),
            AddParameter(Parameter(name, name, node.id, key)),
            EditParameter(Parameter(parameter, name, "x", "y", -5.0, 5.0)),
            RemoveParameter(parameter),
            AddVariant(Variant(name, name, {parameter: (number,)})),
            RenameVariant(variant, name),
            RemoveVariant(variant),
            SetOverride(variant, parameter, (number,)),
            SetOverride(variant, parameter, None),
            Rename(f"graph {name}"),
            ChooseForm(draw.choice(["plane", "sphere", "ghost"])),
            SetScene("rig", draw.choice(["overcast", "low_sun", "moonshine"])),
            SetScene("backdrop", draw.choice(["lock_basin", "", "ballroom"])),
            SetScene("kind", draw.choice(["cut_out", "see_through", "thin air"])),
            OrderParameter(parameter, draw.randrange(4)),
        ]
    )
