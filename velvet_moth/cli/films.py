"""``./moth render GRAPH --frames``: a film of a graph, by NumPy."""

import argparse
import shutil
import sys
import tempfile
import zipfile
from dataclasses import replace
from pathlib import Path

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.pictures.films import FILM_FORMATS
from velvet_moth.core.workbench.filming import Film, frames, whole_film, write_film
from velvet_moth.core.workbench.session import GraphSource, MeshSource, TextureSource

# What the name of the output means where no format is chosen.
_BY_SUFFIX = {".mp4": "mp4", ".webm": "webm", ".apng": "apng", ".png": "sheet", ".zip": "png", "": "png"}


def add_options(parser: argparse.ArgumentParser) -> None:
    """The options of films."""
    parser.add_argument(
        "--frames", default="", metavar="FROM:TO", help="a film of these frames (TO left out); : for all"
    )
    parser.add_argument("--fps", type=int, default=0, help="frames a second (default: the graph's own)")
    parser.add_argument(
        "--film", default="", choices=list(FILM_FORMATS), help="its format (default: by the name of the output)"
    )
    parser.add_argument("--columns", type=int, default=0, help="how many frames of a sheet stand side by side")
    parser.add_argument("--clear", action="store_true", help="nothing behind the form, where the format keeps alpha")


def film_of(options: argparse.Namespace, graph: Graph, size: tuple[int, int], variants: tuple[str, ...]) -> Film:
    """The film that the options ask for."""
    whole = whole_film(graph, Film(width=size[0], height=size[1], variants=variants, is_clear=options.clear))
    rate = options.fps or whole.rate
    first, last = _ends(options.frames, round(graph.timing.length * rate))
    suffix = Path(options.output).suffix.lower()
    chosen = options.film or _BY_SUFFIX.get(suffix, "")
    if not chosen:
        known = ", ".join(key for key in _BY_SUFFIX if key)
        raise FileRefused("Its name does not say which film to write.", options.output, f"Use {known}, or --film.")
    columns = options.columns or _most_square(last - first)
    film = replace(whole, format=chosen, first=first, last=last, rate=rate, columns=columns)
    return film.checked(graph)


def _ends(text: str, count: int) -> tuple[int, int]:
    first, colon, last = text.partition(":")
    try:
        if not colon:
            raise ValueError
        return int(first or 0), int(last or count)
    except ValueError as error:
        raise FileRefused(
            f"These are no frames: {text[:40]!r}.", "--frames", "Write the first and the one after the last: 0:120."
        ) from error


def _most_square(count: int) -> int:
    """The number of columns that divides so many frames and makes a sheet most nearly square."""
    fitting = [columns for columns in range(1, count + 1) if count % columns == 0]
    return min(fitting, key=lambda columns: abs(columns - count / columns), default=1)


def write(
    options: argparse.Namespace,
    film: Film,
    graph: Graph,
    textures: TextureSource,
    graphs: GraphSource,
    meshes: MeshSource,
) -> None:
    """Makes the film, and says what it is, and whether it is a loop."""
    shape, place = film.shape, Path(options.output)
    print(f"{shape.frames} frames, {shape.width} x {shape.height}, about {_bytes(film.weight)}", file=sys.stderr)
    into_folder = not place.suffix
    # It has no name until it is whole: what stops the command leaves nothing behind.
    with tempfile.TemporaryFile() as file:
        loop = write_film(film, file, frames(film, graph, textures, graphs, meshes), _Telling(shape.frames))
        file.seek(0)
        if into_folder:
            place.mkdir(parents=True, exist_ok=True)
            with zipfile.ZipFile(file) as archive:
                archive.extractall(place)
        else:
            with place.open("wb") as out:
                shutil.copyfileobj(file, out)
    sheet = f", {film.columns} columns and {shape.rows} rows" if film.made.is_sheet else ""
    print(f"{place}: {film.made.name}, {shape.frames} frames at {shape.rate} a second{sheet}")
    if loop.words:
        print(f"  {loop.words}")


class _Telling:
    """Says now and then how many frames are done, apart from what the command answers."""

    def __init__(self, count: int) -> None:
        self.count = count
        self.said = 0

    def __call__(self, share: float) -> None:
        done = round(share * self.count)
        if done == self.count or done - self.said >= max(self.count // 20, 1):
            self.said = done
            print(f"frame {done} of {self.count}", file=sys.stderr, flush=True)


def _bytes(count: int) -> str:
    return f"{count / 1e6:.1f} MB" if count >= 1e5 else f"{count / 1e3:.0f} kB"
