"""A short way to write graphs in code."""

from dataclasses import replace
from typing import Any

from velvet_moth.core.document.graph import Graph, Node, Parameter, Source, Variant
from velvet_moth.core.document.scene import Timing
from velvet_moth.core.document.tracks.track import Key, Outside, Path, Track
from velvet_moth.core.document.values import Value
from velvet_moth.core.nodes.surfaces import DOCK


def _value(value: Any) -> Value:
    if isinstance(value, str):
        return value
    parts = value if isinstance(value, tuple) else (value,)
    return tuple(float(c) for c in parts)


class Sketch:
    """Collects nodes, wires, parameters and variants, then gives the Graph."""

    def __init__(
        self,
        title: str,
        form: str = "mooring",
        rig: str = "open_dock",
        kind: str = "solid",
        backdrop: str = "",
        tags: str = "",
        mesh: str = "",
    ) -> None:
        self.title = title
        self.tags = tuple(sorted(tag for tag in tags.split(", ") if tag))
        self.form = form
        self.rig, self.kind, self.backdrop, self.mesh = rig, kind, backdrop, mesh
        self.nodes: dict[str, Node] = {}
        self.parameters: list[Parameter] = []
        self.variants: list[Variant] = []
        self.tracks: dict[str, Track] = {}
        self.timing = Timing()

    def add(self, key: str, type_: str, label: str = "", settings: dict[str, Any] | None = None, **inputs: Any) -> str:
        """A node; an input is a value, or a wire written as ``"@node.output"``."""
        wires = {k: Source(*v[1:].split(".")) for k, v in inputs.items() if isinstance(v, str) and v.startswith("@")}
        values = {k: _value(v) for k, v in inputs.items() if k not in wires}
        self.nodes[key] = Node(key, type_, values, settings or {}, wires, label)
        return key

    def dock(self, **inputs: Any) -> None:
        self.add(DOCK, DOCK, **inputs)

    def open(
        self,
        name: str,
        node: str,
        key: str,
        low: float = 0.0,
        high: float = 1.0,
        step: float = 0.01,
        unit: str = "",
        group: str = "",
    ) -> None:
        """Makes a value a parameter; its id is made of its name."""
        made = "".join(c if c.isalnum() else "_" for c in name.lower())
        self.parameters.append(
            Parameter(made, name, node=node, input=key, low=low, high=high, step=step, unit=unit, group=group)
        )

    def variant(self, name: str, **values: Any) -> None:
        made = "".join(c if c.isalnum() else "_" for c in name.lower())
        self.variants.append(Variant(made, name, {k: _value(v) for k, v in values.items()}))

    def keys(self, target: str, *keys: Key, after: Outside = "hold", path: Path = "light", variant: str = "") -> None:
        """Keys of a target, of the graph or of a variant by its id."""
        track = Track(keys, after=after, path=path)
        if not variant:
            self.tracks[target] = track
        self.variants = [
            replace(v, tracks={**v.tracks, target: track}) if v.id == variant else v for v in self.variants
        ]

    def graph(self) -> Graph:
        return Graph(
            self.title,
            self.nodes,
            form=self.form,
            mesh=self.mesh,
            rig=self.rig,
            kind=self.kind,
            backdrop=self.backdrop,
            tags=self.tags,
            parameters=tuple(self.parameters),
            variants=tuple(self.variants),
            tracks=self.tracks,
            timing=self.timing,
        )
