"""Node types and settings as the page knows them."""

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import NodeType
from velvet_moth.core.catalogue.settings import Setting, spoken
from velvet_moth.core.language.types import P_TEXTURE
from velvet_moth.web.api.catalogue_answers import NodeType as NodeState
from velvet_moth.web.api.catalogue_answers import Port
from velvet_moth.web.api.catalogue_answers import Setting as SettingState


def _port(p: Input) -> Port:
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
        "fills": p.fills,
        "reshapes": p.shapes_the_shader or p.type is P_TEXTURE,
        "in_steps": p.in_steps,
    }


def setting_state(setting: Setting) -> SettingState:
    """What can be set, as plain data."""
    return {
        "key": setting.key,
        "name": setting.name,
        "kind": setting.kind,
        "words": setting.words,
        "low": setting.low,
        "high": setting.high,
        "unit": setting.unit,
        "choices": list(setting.choices),
        "optional": setting.optional,
        "maps": [{"key": m.key, "name": m.name, "role": m.role, "plain": list(m.plain)} for m in setting.maps],
        "reads": setting.reads,
        "default": setting.default,
    }


def described(kind: NodeType) -> NodeState:
    """A node type as plain data."""
    return {
        "key": kind.key,
        "name": kind.name,
        "group": kind.group,
        "hidden": kind.hidden,
        "role": kind.role,
        "inputs": [_port(p) for p in kind.inputs.values()],
        "settings": [setting_state(setting) for setting in kind.settings.values()],
        "outputs": [
            {"key": k, "name": o.name, "type": o.type.name, "strands": o.type.strands, "unit": o.unit}
            for k, o in kind.outputs.items()
        ],
        "sentence": kind.help.sentence,
        "formula": kind.help.formula,
        "use": kind.help.use,
    }
