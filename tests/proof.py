"""Runs every language through its compilers and, where it can be executed, against NumPy; writes what the export page states.

Run: .venv/bin/python -m tests.proof
"""

import subprocess
from collections.abc import Callable, Iterable, Sequence
from importlib.metadata import version

import numpy as np

from tests.parity.test_exports import random_graphs, texts_together, with_all
from tests.support.compiling import compiled
from tests.support.executing import VISIBLE, differences
from tests.support.graphs import demo_graphs
from tests.support.native import EXECUTED, device
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.exported import exported
from velvet_moth.core.exporting.proof import PROOFS, RECORD, Proof
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.dialects import DIALECTS, Dialect
from velvet_moth.core.workbench.examples import example

ELSEWHERE = {"glsl_es": "The stage runs it as WebGL 2: its tests hold every node there against NumPy."}


def _version(command: Sequence[str]) -> str:
    said = subprocess.run(command, capture_output=True, text=True, check=True).stdout.split()
    return next(
        word.rstrip(";")
        for word in said
        if word[:1].isdigit() or (":" in word and word.rsplit(":", 1)[1][:1].isdigit())
    )


def _compilers(dialect: Dialect) -> str:
    if dialect.key == "wgsl":
        return f"naga (wgpu {version('wgpu')})"
    validator = f"glslangValidator {_version(['glslangValidator', '--version'])}"
    return validator if dialect.key == "glsl_es" else f"{validator} and spirv-val"


def _taken(dialect: Dialect, text: str) -> None:
    if dialect.key == "wgsl":
        device().create_shader_module(code=text)
    else:
        compiled(text, dialect)


def _refused(dialect: Dialect, texts: Iterable[Callable[[], str]]) -> int:
    count = 0
    for text in texts:
        try:
            _taken(dialect, text())
        except Exception as error:
            print(f"{dialect.name}: {str(error)[:400]}")
            count += 1
    return count


def _proof(dialect: Dialect, demo: Sequence[Graph], random: Sequence[Graph], nodes: Sequence[Graph]) -> Proof:
    texts = [
        lambda graph=graph, shape=shape: exported(graph, with_all(dialect.key, shape), {}).text
        for graph in [*demo, *nodes]
        for shape in SHAPES
    ]
    refused = _refused(dialect, [*texts, lambda: texts_together(random, dialect.key)])
    counts = {"graphs": len(demo), "random": len(random), "nodes": len(nodes), "refused": refused}
    if dialect not in EXECUTED:
        return Proof(_compilers(dialect), **counts, elsewhere=ELSEWHERE.get(dialect.key, ""))
    off = np.concatenate(
        [
            one.ravel()
            for graph in [*demo, *nodes]
            if not graph.used_motifs()
            for one in differences(graph, dialect).values()
        ]
    )
    return Proof(
        _compilers(dialect),
        **counts,
        device=device().adapter.info["device"].split(" (")[0],
        values=off.size,
        beyond=int((off > VISIBLE).sum()),
        largest=float(off.max()),
    )


def main() -> None:
    """Writes the record."""
    nodes = [example(kind) for kind in CATALOGUE.values() if not kind.hidden]
    found = {key: _proof(one, demo_graphs(), random_graphs(), nodes) for key, one in DIALECTS.items()}
    RECORD.write_bytes(PROOFS.dump_json(found, indent=1) + b"\n")
    for key, one in found.items():
        print(f"{DIALECTS[key].name}: {one.words}")


if __name__ == "__main__":
    main()
