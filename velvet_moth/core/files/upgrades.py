"""Steps that bring a graph file of an older version to the newest, one step a version.

A step takes the plain data of version n and gives that of n + 1, without changing what it was given.
"""

from collections.abc import Callable, Mapping
from typing import Any

Step = Callable[[Mapping[str, Any]], dict[str, Any]]


def _with_nodes(data: Mapping[str, Any], change: Callable[[dict[str, Any]], dict[str, Any]]) -> dict[str, Any]:
    nodes = data.get("nodes")
    if not isinstance(nodes, list):
        return dict(data)
    return {**data, "nodes": [change(n) if isinstance(n, dict) else n for n in nodes]}


def _to_version_2(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 1 had a node for below only; the comparison became a setting and its answer an output of that name."""

    def renamed(node: dict[str, Any]) -> dict[str, Any]:
        wires = node.get("wires")
        if not isinstance(wires, dict):
            return node
        kept = {k: [w[0], "answer"] if w in [[n, "below"] for n in compared] else w for k, w in wires.items()}
        return {**node, "wires": kept}

    nodes = data.get("nodes")
    listed = nodes if isinstance(nodes, list) else []
    compared = [n.get("id") for n in listed if isinstance(n, dict) and n.get("type") == "compare"]
    return _with_nodes(data, renamed)


def _to_version_3(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 3 has marks, muted nodes, and wires that take a part of a value; version 2 had none."""
    return dict(data)


def _to_version_4(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 4 carries textures in any picture format and says which way green points; version 3 had PNG only."""

    def renamed(entry: Any) -> Any:
        if not isinstance(entry, dict) or "png" not in entry:
            return entry
        return {**{k: v for k, v in entry.items() if k != "png"}, "file": entry["png"]}

    textures = data.get("textures")
    if not isinstance(textures, dict):
        return dict(data)
    return {**data, "textures": {key: renamed(entry) for key, entry in textures.items()}}


def _to_version_5(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 5 says the light rig, the backdrop and the kind; before, a surface with an opacity was cut out by it."""
    nodes = data.get("nodes")
    docks = [n for n in nodes if isinstance(n, dict) and n.get("id") == "dock"] if isinstance(nodes, list) else []
    held = [n.get(part) for n in docks for part in ("wires", "values")]
    is_cut = any(isinstance(part, dict) and {"opacity", "surface"} & set(part) for part in held)
    return {**data, "kind": "cut_out" if is_cut else "solid"}


def _to_version_6(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 6 has decals, saved views, a picture around the stage, and variants with a base and a note."""
    return dict(data)


def _to_version_7(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 7 dresses parts of the backdrop in other graphs, which a file carries with it."""
    return dict(data)


def _to_version_8(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 8 names the environment, the materials of the backdrop and the alpha cutoff for what they are."""
    renamed = {"surroundings": "environment", "wears": "backdrop_materials"}
    named = {renamed.get(key, key): value for key, value in data.items()}

    def cutoff(table: Any) -> Any:
        if not isinstance(table, dict):
            return table
        return {"alpha_cutoff" if key == "cut_at" else key: value for key, value in table.items()}

    def node(entry: dict[str, Any]) -> dict[str, Any]:
        if entry.get("type") not in ("dock", "surface"):
            return entry
        return {key: cutoff(value) if key in ("values", "wires") else value for key, value in entry.items()}

    def parameter(entry: Any) -> Any:
        opened = isinstance(entry, dict) and entry.get("input") == "cut_at"
        return {**entry, "input": "alpha_cutoff"} if opened else entry

    if isinstance(named.get("parameters"), list):
        named["parameters"] = [parameter(entry) for entry in named["parameters"]]
    return _with_nodes(named, node)


def _to_version_9(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 9 has tags, and scales and turns the form."""
    return dict(data)


def _to_version_10(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 10 has meshes in the place of a form."""
    return dict(data)


def _to_version_11(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 11 has keys, the length of its time, and decals with ids."""
    return dict(data)


def _to_version_12(data: Mapping[str, Any]) -> dict[str, Any]:
    """Version 12 has decals that live, rules of placing, and emitters."""
    return dict(data)


STEPS: Mapping[int, Step] = {
    1: _to_version_2,
    2: _to_version_3,
    3: _to_version_4,
    4: _to_version_5,
    5: _to_version_6,
    6: _to_version_7,
    7: _to_version_8,
    8: _to_version_9,
    9: _to_version_10,
    10: _to_version_11,
    11: _to_version_12,
}


def upgraded(data: Mapping[str, Any], version: int) -> Mapping[str, Any]:
    """The data of ``version`` as the newest version has it."""
    while version in STEPS:
        data = {**STEPS[version](data), "version": version + 1}
        version += 1
    return data
