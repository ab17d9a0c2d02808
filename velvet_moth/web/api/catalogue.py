"""Node types as the page knows them."""

from velvet_moth.core.catalogue.ports import Input, spoken
from velvet_moth.core.catalogue.registry import NodeType
from velvet_moth.core.language.types import P_TEXTURE
from velvet_moth.web.api import answers


def _port(p: Input) -> answers.Port:
    return {
        "key": p.key,
        "name": p.name,
        "type": p.type.name,
        "default": list(p.default),
        "low": p.low,
        "high": p.high,
        "step": p.step,
        "unit": p.unit,
        "words": p.words,
        "source": spoken(p.source),
        "wirable": p.wirable,
        "reads": p.reads,
        "extra": p.extra,
        "reshapes": p.shapes_the_shader or p.type is P_TEXTURE,
    }


def described(kind: NodeType) -> answers.NodeType:
    """A node type as plain data."""
    return {
        "key": kind.key,
        "name": kind.name,
        "group": kind.group,
        "hidden": kind.hidden,
        "role": kind.role,
        "inputs": [_port(p) for p in kind.inputs.values()],
        "settings": [
            {
                "key": s.key,
                "name": s.name,
                "default": s.default,
                "options": list(s.options),
                "low": s.low,
                "high": s.high,
                "words": s.words,
                "reads": s.reads,
            }
            for s in kind.settings.values()
        ],
        "outputs": [
            {"key": k, "name": o.name, "type": o.type.name, "strands": o.type.strands, "unit": o.unit}
            for k, o in kind.outputs.items()
        ],
        "sentence": kind.help.sentence,
        "formula": kind.help.formula,
        "use": kind.help.use,
    }
