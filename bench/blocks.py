"""A model of 256 blocks along a side, half filled: opened, a block put, memory; against a plain NumPy pass over the same blocks.

Run: .venv/bin/python -m bench.blocks
"""

import resource
import statistics
import time
from collections.abc import Callable

import numpy as np
from flask.testing import FlaskClient
from sqlalchemy.orm import Session

from bench.serving import served
from velvet_moth.core.blocks.cells import SIDE, Cells, blocks_of, packed_cells, unpacked_cells
from velvet_moth.core.blocks.drawing import BlockStroke, drawn
from velvet_moth.core.blocks.model import BlockModel, Settings
from velvet_moth.core.blocks.surface import faces_by_chunk, mesh_of, surface_of
from velvet_moth.store import block_looks, block_models, projects
from velvet_moth.web.app import create_app


def land() -> Cells:
    """Hills of layers, half of all cells filled."""
    along = np.arange(SIDE)
    height = 128 + 22 * np.sin(along / 17)[:, None] + 22 * np.cos(along / 23)[None]
    height += np.random.default_rng(1).integers(-1, 2, (SIDE, SIDE))
    up = along[None, :, None]
    return np.where(up < height[:, None, :], 1 + up // 8 % 32, 0).astype(np.uint16)


def timed(work: Callable[[], object], times: int = 5) -> float:
    """The median of some runs, seconds."""
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return statistics.median(found)


def by_hand(cells: Cells) -> int:
    """How many faces are seen, by comparing the whole array with itself moved by one."""
    filled = np.pad(cells > 0, 1)
    inner = filled[1:-1, 1:-1, 1:-1]
    moved = (np.roll(filled, step, axis)[1:-1, 1:-1, 1:-1] for axis in range(3) for step in (1, -1))
    return sum(int(np.count_nonzero(inner & ~one)) for one in moved)


def in_the_core(cells: Cells) -> None:
    blocks = blocks_of(cells)
    plain = timed(lambda: by_hand(cells), 3)
    assert blocks.box is not None
    every = timed(lambda: surface_of(blocks, 0.1), 3)
    print(
        f"{blocks.count:,} blocks; their whole surface, merged: {every:.2f} s, {every / plain:.1f}x a plain pass ({plain:.2f} s)"
    )
    packed = [packed_cells(chunk.cells) for chunk in blocks.chunks.values()]
    unpacking = timed(lambda: [unpacked_cells(one, "bench") for one in packed], 3)
    print(f"{len(packed):,} chunks, {sum(map(len, packed)) / 1e6:.1f} MB packed, unpacked in {unpacking:.2f} s")
    top = int(cells[128, :, 128].argmin())
    stroke = BlockStroke("single", "put", (128, top, 128), (128, top, 128), 3)
    key = (128 // 16, top // 16, 128 // 16)

    def put() -> None:
        after = drawn(blocks, stroke)
        mesh_of(faces_by_chunk(after, [key]).faces, 0.1)

    one = timed(put, 20)
    print(f"a block put, and the surface of its chunk: {one * 1e3:.1f} ms, {one / plain:.3f}x a plain pass over all")


def over_http(cells: Cells) -> None:
    with served() as live:
        with Session(live.engine) as session, session.begin():
            project = projects.first(session).id
            palette = next(str(one.id) for one in block_looks.palettes(session, project))
            row = block_models.create(session, project, BlockModel(Settings("Land", palette=palette), blocks_of(cells)))
            key = row.id
        app = create_app(live.engine, "bench")
        app.config["WTF_CSRF_ENABLED"] = False
        client: FlaskClient = app.test_client()
        start = time.perf_counter()
        first = client.get(f"/api/blocks/{key}")
        print(f"opened: {time.perf_counter() - start:.2f} s, {len(first.data) / 1e6:.0f} MB sent (budget 3 s)")
        top = int(cells[128, :, 128].argmin())
        spent = []
        for number in range(12):
            place = [128, top + number, 128]
            stroke = {"shape": "single", "way": "put", "first": place, "last": place, "entry": 3}
            start = time.perf_counter()
            answer = client.post(f"/api/blocks/{key}/draw", json={"revision": number, "strokes": [stroke]})
            spent.append(time.perf_counter() - start)
            assert answer.status_code == 200, answer.data[:300]
        print(f"a block put, with the database: {statistics.median(spent) * 1e3:.0f} ms (budget 50 ms)")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e3
    print(f"most memory of this process, server and bench together: {peak:.0f} MB (budget 1,000 MB)")


def main() -> None:
    cells = land()
    in_the_core(cells)
    over_http(cells)


if __name__ == "__main__":
    main()
