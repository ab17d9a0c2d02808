"""Fifty keyed values: a moment in the page and in the core; and a film's frames against the codec alone.

Run: .venv/bin/python -m bench.keys
"""

import statistics
import tempfile
import time
from fractions import Fraction

import av
import numpy as np
from playwright.sync_api import sync_playwright
from sqlalchemy.orm import Session

from bench.serving import served
from tests.support.browser import ARGUMENTS, CHROMIUM, UNLIT
from velvet_moth.core.document.graph import Graph, Node, Parameter, Source
from velvet_moth.core.document.tracks.track import Key, Track
from velvet_moth.core.nodes.surfaces import DOCK
from velvet_moth.core.workbench.filming import Film, write_film
from velvet_moth.store import graphs, projects

TRACKS, KEYS, MOMENTS = 50, 12, 3000
FRAMES, SIZE = 120, 480
# The keyed values of a moment by the page, and the same values written without keys, in milliseconds.
MOMENT = """(count) => {
  const { stage, model } = moth;
  if (moth.tracks.isShown) document.getElementById("tracks-close").click();
  const spent = (act) => {
    const began = performance.now();
    for (let at = 0; at < count; at += 1) act(at / 60);
    return (performance.now() - began) / count;
  };
  const keyed = spent((time) => stage.onTime(time));
  const plain = spent((time) => {
    const values = stage.values.value.slice();
    for (let at = 0; at < 50; at += 1) values[at] = Math.sin(time + at);
    stage.animate(values);
  });
  return [keyed, plain, model.keys.targets().length];
}"""


def keyed_graph() -> Graph:
    """Fifty numbers that are added up, each a parameter with keys."""
    nodes = {DOCK: Node(DOCK, DOCK, wires={"roughness": Source(f"add_{TRACKS - 1}", "result")})}
    parameters, tracks = [], {}
    random = np.random.default_rng(4)
    for at in range(TRACKS):
        nodes[f"number_{at}"] = Node(f"number_{at}", "number")
        before = Source(f"add_{at - 1}", "result") if at else Source("number_0", "value")
        nodes[f"add_{at}"] = Node(f"add_{at}", "add", wires={"a": before, "b": Source(f"number_{at}", "value")})
        parameters.append(Parameter(f"number_{at}", f"Number {at}", f"number_{at}", "value"))
        values = random.random(KEYS)
        ways = ("smooth", "gather", "overshoot", "straight")
        keys = tuple(Key(float(i), (float(value),), ways[i % 4]) for i, value in enumerate(values))
        tracks[f"number_{at}"] = Track(keys, after="again")
    return Graph("Fifty keys", nodes, parameters=tuple(parameters), tracks=tracks)


def in_the_core(graph: Graph) -> tuple[float, float]:
    """Milliseconds for the keyed values of a moment, and for as many cubics by hand in NumPy."""
    began = time.perf_counter()
    for at in range(MOMENTS):
        graph.keyed_values("", at / 60)
    ours = (time.perf_counter() - began) / MOMENTS * 1e3
    times = np.arange(KEYS, dtype=np.float64)
    cubics = np.random.default_rng(1).random((TRACKS, KEYS, 4))
    began = time.perf_counter()
    for at in range(MOMENTS):
        inside = (at / 60) % (KEYS - 1)
        for track in range(TRACKS):
            piece = int(np.searchsorted(times, inside, "right")) - 1
            a, b, c, d = cubics[track, piece]
            x = inside - times[piece]
            _ = a + x * (b + x * (c + x * d))
    return ours, (time.perf_counter() - began) / MOMENTS * 1e3


def films() -> tuple[float, float]:
    """Milliseconds a frame for MP4: by the writer of films with its look at the loop, and by the codec alone."""
    random = np.random.default_rng(2)
    ground = random.integers(0, 255, (SIZE, SIZE, 4), dtype=np.uint8)
    drawn = [np.roll(ground, at, axis=1) for at in range(FRAMES)]
    began = time.perf_counter()
    with tempfile.TemporaryFile() as file:
        write_film(Film("mp4", SIZE, SIZE, 0, FRAMES, 30), file, drawn)
    ours = (time.perf_counter() - began) / FRAMES * 1e3
    began = time.perf_counter()
    with tempfile.TemporaryFile() as file, av.open(file, "w", format="mp4") as container:
        stream = container.add_stream("libx264", rate=30, options={"crf": "16", "preset": "medium"})
        stream.width, stream.height, stream.pix_fmt = SIZE, SIZE, "yuv420p"
        for at, frame in enumerate(drawn):
            made = av.VideoFrame.from_ndarray(np.ascontiguousarray(frame[..., :3]), format="rgb24")
            made.pts, made.time_base = at, Fraction(1, 30)
            container.mux(stream.encode(made))
        container.mux(stream.encode(None))
    return ours, (time.perf_counter() - began) / FRAMES * 1e3


def main() -> None:
    graph = keyed_graph()
    ours, by_hand = in_the_core(graph)
    print(f"{TRACKS} tracks at a moment, core: {ours:.2f} ms, {ours / by_hand:.2f}x cubics by hand in NumPy")
    with served() as live, sync_playwright() as playwright:
        with Session(live.engine) as session, session.begin():
            key = graphs.create(session, projects.first(session).id, graph).id
        page = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS).new_page()
        page.add_init_script(UNLIT)
        page.goto(f"{live.url}/graphs/{key}")
        page.wait_for_function("() => globalThis.moth?.stage?.isReady")
        found = [page.evaluate(MOMENT, MOMENTS) for _ in range(5)]
        keyed, plain, count = (statistics.median(each) for each in zip(*found, strict=True))
        print(f"{count:.0f} tracks at a moment, page: {keyed:.3f} ms (budget 0.3), values alone {plain:.3f} ms")
    ours, alone = films()
    print(f"a frame of MP4, {SIZE} x {SIZE}: {ours:.1f} ms, {ours / alone:.2f}x the codec alone")


if __name__ == "__main__":
    main()
