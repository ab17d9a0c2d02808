"""The catalogue of nodes: what the decorator makes of a typed Python function."""

import inspect
import re
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, get_args, get_origin, get_type_hints

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import ExpressionError
from velvet_moth.core.catalogue.ports import Input, Output, number
from velvet_moth.core.catalogue.settings import Setting, choice, spoken
from velvet_moth.core.language.expr import Expr, Function, Structural, call, is_biased
from velvet_moth.core.language.primitives.sampling import FILTERS, WRAPS, reading
from velvet_moth.core.language.trace import is_better_in_place, is_small, split_biases, trace
from velvet_moth.core.language.types import P_SURFACE, P_TEXTURE

Settings = tuple[tuple[str, Any], ...]


@dataclass(frozen=True)
class Help:
    """A node's docstring in parts: a plain sentence, the formula, the usual use, neighbours to consider."""

    sentence: str
    formula: str
    use: str
    see: tuple[str, ...]


# The functions that nodes were traced as, by what is settled of them.
_functions: "BoundedCache[Function | None]" = BoundedCache("functions of nodes", 4096)


def clear_cache() -> None:
    """Drops what was traced before, for measuring."""
    _functions.clear()


@dataclass(frozen=True)
class NodeType:
    """A kind of node. ``body`` takes expressions by input key and settings by name."""

    key: str
    name: str
    group: str
    inputs: Mapping[str, Input]
    settings: Mapping[str, Setting]
    outputs: Mapping[str, Output]
    body: Callable[..., Any]
    help: Help
    synonyms: tuple[str, ...] = ()
    needs: tuple[str, ...] = ()
    hidden: bool = False
    role: str = ""
    form: str = ""

    @cached_property
    def readings(self) -> tuple[str, ...]:
        """The texture inputs whose reading can be set: beyond the edges, between pixels, at a coarser level."""
        return tuple(dict.fromkeys(s.reads for s in self.settings.values() if s.reads))

    @cached_property
    def filled_by(self) -> str:
        """The input whose whole surface fills those that are not wired; "" for none."""
        return next((key for key, declared in self.inputs.items() if declared.fills), "")

    @cached_property
    def is_flat(self) -> bool:
        """Whether every input and output is one expression (no whole surfaces, no lists of stops)."""
        types = [*(i.type for i in self.inputs.values()), *(o.type for o in self.outputs.values())]
        return not any(t is P_SURFACE or t.stop for t in types)

    def vertex_channel(self, output: str, settings: Mapping[str, Any]) -> str:
        """The channel of the vertex data that an output gives, as the node is set; empty where it gives something else."""
        first = self.outputs[output].channel if output in self.outputs else ""
        return f"second {first}" if first and settings.get("set") == "second" else first

    def build(self, values: Mapping[str, Any], settings: Settings) -> dict[str, Any]:
        """The outputs by key. Small bodies stand in place; others become one function per signature."""
        if not self.outputs:
            return {}
        if self.readings:
            values, settings = self._read(values, settings)
        if not self.is_flat:
            return self._named(self.body(**values, **dict(settings)))
        # What is settled at build (a toggle, an idle input) is settled inside the function too.
        key = (settings, *[_told_apart(v) for v in values.values()])
        function = _functions.get((self.body, key), lambda: self._traced(values, settings))
        free, _ = split_biases([v for v in values.values() if v.operator is not Structural.CONSTANT])
        if function is None or is_better_in_place(function, free):
            return self._named(self.body(**values, **dict(settings)))
        return dict(zip(self.outputs, call(function, free), strict=True))

    def _read(self, values: Mapping[str, Any], settings: Settings) -> tuple[dict[str, Any], Settings]:
        """The textures as they are read, in the place of what was set of their reading."""
        chosen, given = dict(settings), dict(values)
        for key in self.readings:
            wrap, filter_, bias = (f"{key}_{part}" for part in ("wrap", "filter", "bias"))
            given[key] = reading(given[key], chosen.pop(wrap), chosen.pop(filter_), given.pop(bias))
        return given, tuple(chosen.items())

    def _named(self, built: Any) -> dict[str, Any]:
        return dict(zip(self.outputs, built if isinstance(built, tuple) else (built,), strict=True))

    def _traced(self, values: Mapping[str, Any], settings: Settings) -> Function | None:
        """The node as one function of what is not settled yet; None where it is better read in place."""
        fixed = {k: v for k, v in values.items() if v.operator is Structural.CONSTANT}
        free = {k: v.type for k, v in values.items() if k not in fixed}
        _, with_bias = split_biases([values[k] for k in free])

        def body(*args: Expr) -> Any:
            return self.body(**fixed, **dict(zip(free, args, strict=True)), **dict(settings))

        made = trace(self.key, self.name, tuple(free), body, tuple(free.values()), with_bias)
        return None if is_small(made) else made


def _told_apart(value: Expr) -> Any:
    """What of an argument makes another function of a node."""
    return value if value.operator is Structural.CONSTANT else (value.type, is_biased(value))


CATALOGUE: dict[str, NodeType] = {}


def _annotation(hint: Any, kind: type) -> list[Any]:
    return [m for m in get_args(hint)[1:] if isinstance(m, kind)] if get_origin(hint) is not None else []


def _parse_help(key: str, text: str | None) -> Help:
    parts = re.split(r"\n\s*(Formula|Use|See):\s*", inspect.cleandoc(text or ""))
    named = dict(zip(parts[1::2], parts[2::2], strict=True))
    if not parts[0].strip() or {"Formula", "Use"} - set(named):
        raise ExpressionError(f"The node {key} needs a docstring: a sentence, then 'Formula:' and 'Use:' lines.")
    flat = {name: " ".join(body.split()) for name, body in named.items()}
    neighbours = tuple(s.strip() for s in flat.get("See", "").rstrip(".").split(",") if s.strip())
    return Help(" ".join(parts[0].split()), flat["Formula"], flat["Use"], neighbours)


def _outputs(hint: Any) -> dict[str, Output]:
    hints = get_args(hint) if get_origin(hint) is tuple else (hint,)
    found = [_annotation(h, Output)[0] for h in hints]
    return {o.key or o.name.lower().replace(" ", "_"): o for o in found}


def _reading_of(
    ports: Mapping[str, Input], outputs: Mapping[str, Output]
) -> tuple[dict[str, Input], dict[str, Setting]]:
    """What can be set of how each texture is read, for nodes that read one and do not hand it on."""
    if any(o.type is P_TEXTURE for o in outputs.values()):
        return {}, {}
    keys = [key for key, port in ports.items() if port.type is P_TEXTURE]
    biases: dict[str, Input] = {}
    choices: dict[str, Setting] = {}
    for key in keys:
        of = "" if len(keys) == 1 else f" of {spoken(key).lower()}"
        beyond = choice(*WRAPS, words="Beyond the edges: again, the edge held, or mirrored.")
        between = choice(*FILTERS, words="Whether neighbouring pixels blend.")
        choices[f"{key}_wrap"] = replace(beyond, reads=key, name=f"Wrap{of}").named(f"{key}_wrap")
        choices[f"{key}_filter"] = replace(between, reads=key, name=f"Filter{of}").named(f"{key}_filter")
        level = number(0.0, -4.0, 4.0, 0.25, words="Levels coarser than the screen asks for; below 0 is sharper.")
        declared = replace(level, idle_at_default=True, wirable=False, reads=key, name=f"Level bias{of}")
        biases[f"{key}_bias"] = declared.named(f"{key}_bias")
    return biases, choices


def node(
    name: str,
    group: str,
    synonyms: Sequence[str] = (),
    needs: Sequence[str] = (),
    inputs: Mapping[str, Input] | None = None,
    hidden: bool = False,
    role: str = "",
    form: str = "",
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Decorator that enters a function in the catalogue.

    Parameters annotated with an Input can be wired, with a Setting are settled at build; the return
    annotation carries the Outputs; the docstring is the help. ``inputs`` serves functions with ``**values``.
    ``role`` tells of what the graph makes special: ``motif input`` and ``motif output``. ``form`` is what
    the node's example is shown on, where a flat square would tell nothing.
    """

    def decorate(body: Callable[..., Any]) -> Callable[..., Any]:
        hints = get_type_hints(body, include_extras=True)
        key = body.__name__.rstrip("_")
        ports = {k: _annotation(h, Input)[0].named(k) for k, h in hints.items() if _annotation(h, Input)}
        ports.update({k: declared.named(k) for k, declared in (inputs or {}).items()})
        outputs = _outputs(hints["return"])
        biases, readings = _reading_of(ports, outputs)
        settings = {k: _annotation(h, Setting)[0].named(k) for k, h in hints.items() if _annotation(h, Setting)}
        made = NodeType(
            key,
            name,
            group=group,
            inputs={**ports, **biases},
            settings={**settings, **readings},
            outputs=outputs,
            body=body,
            help=_parse_help(key, body.__doc__),
            synonyms=tuple(synonyms),
            needs=tuple(needs),
            hidden=hidden,
            role=role,
            form=form,
        )
        if key in CATALOGUE:
            raise ExpressionError(f"The node {key} is declared twice.")
        CATALOGUE[key] = made
        return body

    return decorate


@contextmanager
def borrowed_node(key: str) -> Iterator[None]:
    """Takes a node out of the catalogue at the end, for tests and try-outs."""
    try:
        yield
    finally:
        CATALOGUE.pop(key, None)
