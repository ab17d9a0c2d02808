"""Films read back by other libraries, sheets, loops, and the boathouse wall frame by frame."""

import io
import tempfile
import unittest
import zipfile
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path
from typing import BinaryIO

import cv2
import numpy as np
from PIL import Image

from velvet_moth.cli.__main__ import main
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.files.graph_json import GraphFile, write_graph_file
from velvet_moth.core.forms.view import BACKGROUND
from velvet_moth.core.pictures.films import FILM_FORMATS, Frame
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.workbench.filming import Film, Loop, frames, write_film
from velvet_moth.core.workbench.session import picture, picture_light
from velvet_moth.demo.ageing import boathouse_wall, signal_lantern

# Patches wider than the blocks in which codecs keep colour.
PATCHES = ((255, 0, 0), (0, 255, 0), (0, 0, 255), (200, 120, 40), (30, 60, 90), (128, 128, 128))
WIDE, HIGH, COUNT, RATE = 192, 96, 24, 12
# What H.264 and VP9 may change of an even colour: it is kept as luminance and colour difference of 8 bits, then coded.
CODEC = 4


def patches(count: int = COUNT) -> Iterator[Frame]:
    """Frames of even patches that all grow darker; the upper half is half clear."""
    for number in range(count):
        frame = np.full((HIGH, WIDE, 4), 255, dtype=np.uint8)
        for at, colour in enumerate(PATCHES):
            frame[:, at * 32 : (at + 1) * 32, :3] = np.array(colour) * (1 - number / 40)
        frame[HIGH // 2 :, :, 3] = 128
        yield frame


def written(key: str, count: int = COUNT, columns: int = 1) -> tuple[bytes, Loop]:
    film = Film(key, WIDE, HIGH, 0, count, RATE, is_clear=True, columns=columns)
    with tempfile.TemporaryFile() as file:
        loop = write_film(film, file, patches(count))
        file.seek(0)
        return file.read(), loop


class ReadBack(unittest.TestCase):
    def test_videos_have_their_frames_rate_size_and_colours(self) -> None:
        for key in ("mp4", "webm"):
            data, _ = written(key)
            with self.subTest(key), tempfile.NamedTemporaryFile(suffix=f".{key}") as file:
                file.write(data)
                file.flush()
                found = cv2.VideoCapture(file.name)
                self.assertAlmostEqual(found.get(cv2.CAP_PROP_FPS), RATE)
                number = 0
                for number, wanted in enumerate(patches(), 1):
                    there, frame = found.read()
                    self.assertTrue(there, number)
                    self.assertEqual(frame.shape, (HIGH, WIDE, 3))
                    # Row 0 is at the bottom: the lower half is whole, the upper one on the stage's grey where there is no alpha.
                    seen, said = frame[3 * HIGH // 4, 16::32, ::-1].astype(int), wanted[HIGH // 4, 16::32, :3]
                    self.assertLessEqual(np.abs(seen - said).max(), CODEC, f"frame {number}")
                    if key == "mp4":
                        half = wanted[-HIGH // 4, 16::32, :3] * (128 / 255) + np.array(BACKGROUND) * (127 / 255)
                        self.assertLessEqual(np.abs(frame[HIGH // 4, 16::32, ::-1] - half).max(), CODEC)
                self.assertEqual((number, found.read()[0]), (COUNT, False))

    def test_animated_png_has_every_pixel(self) -> None:
        found = Image.open(io.BytesIO(written("apng")[0]))
        self.assertEqual((found.n_frames, found.size, found.info["loop"]), (COUNT, (WIDE, HIGH), 0))
        for number, wanted in enumerate(patches()):
            found.seek(number)
            np.testing.assert_array_equal(np.asarray(found.convert("RGBA"))[::-1], wanted)
            self.assertAlmostEqual(found.info["duration"], 1000 / RATE, places=3)

    def test_numbered_frames_and_sheets(self) -> None:
        archive = zipfile.ZipFile(io.BytesIO(written("png")[0]))
        self.assertEqual(archive.namelist(), [f"frame_{number:04d}.png" for number in range(COUNT)])
        sheet = read_picture(written("sheet", columns=6)[0], "sheet")[0].samples
        self.assertEqual(sheet.shape, (4 * HIGH, 6 * WIDE, 4))
        for number, wanted in enumerate(patches()):
            np.testing.assert_array_equal(read_picture(archive.read(f"frame_{number:04d}.png"), "f")[0].samples, wanted)
            row, column = divmod(number, 6)
            low = (3 - row) * HIGH
            np.testing.assert_array_equal(sheet[low : low + HIGH, column * WIDE : (column + 1) * WIDE], wanted)
        with self.assertRaisesRegex(FileRefused, "do not fill rows of 5"):
            written("sheet", columns=5)

    def test_a_long_film_takes_no_more_memory(self) -> None:
        def resident() -> float:
            return int(Path("/proc/self/statm").read_text().split()[1]) * 4096 / 1e6

        seen: list[float] = []
        with tempfile.TemporaryFile() as file:
            film = Film("mp4", WIDE, HIGH, 0, 600, RATE)
            write_film(film, file, (f for _ in range(25) for f in patches()), lambda share: seen.append(resident()))
        self.assertEqual(len(seen), 600)
        self.assertLess(max(seen[100:]) - seen[100], 12.0, "megabytes from the 100th frame on")


class Looping(unittest.TestCase):
    def test_the_last_frame_is_held_against_the_first(self) -> None:
        def found(values: list[int]) -> Loop:
            loop = Loop()
            for value in values:
                loop.add(np.full((2, 2, 4), value, dtype=np.uint8))
            return loop

        there = found([0, 10, 20, 30, 20, 10])
        self.assertEqual((there.seam, there.largest), (10, 10))
        self.assertIn("without a seam", there.words)
        jumps = found([0, 10, 20, 30])
        self.assertIn("by up to 30 of 255, between other frames by 10 at most", jumps.words)


class OfGraphs(unittest.TestCase):
    def filmed(self, graph: Graph, film: Film) -> tuple[bytes, Loop]:
        file: BinaryIO
        with tempfile.TemporaryFile() as file:
            loop = write_film(film, file, frames(film, graph, lambda key: None))
            file.seek(0)
            return file.read(), loop

    def test_the_wall_ages_frame_by_frame(self) -> None:
        wall = boathouse_wall({})
        film = Film("png", 48, 48, 0, 24, 1, is_clear=True)
        archive = zipfile.ZipFile(io.BytesIO(self.filmed(wall, film)[0]))
        seen = [read_picture(archive.read(name), name)[0].samples.astype(int) for name in archive.namelist()]
        there = seen[0][..., 3] > 0
        # How green each is: once its gloss is gone it fades and gives way until the twelfth second, then it is as fresh again.
        green = np.array([np.mean((one[..., 1] - one[..., 0])[there]) for one in seen])
        self.assertTrue((np.diff(green[2:13]) < 0).all(), green)
        np.testing.assert_allclose(green[13:], green[1:12][::-1], atol=0.01)
        self.assertLess(green[12], green[0] * 0.35)
        # At first only the tone changes; then cracks open in single pixels.
        rough = [np.mean(np.abs(np.diff(one[..., 0], axis=1))[there[:, 1:] & there[:, :-1]]) for one in seen]
        self.assertGreater(rough[10], 1.5 * rough[1])

    def test_frames_of_light_are_the_reference_bit_for_bit(self) -> None:
        lantern = signal_lantern({})
        film = Film("exr", 40, 32, 40, 43, 30, is_clear=True)
        archive = zipfile.ZipFile(io.BytesIO(self.filmed(lantern, film)[0]))
        for number, name in enumerate(archive.namelist(), 40):
            scene = Scene.of_graph(lantern, time=number / 30)
            said = picture_light(lantern, (40, 32), lambda key: None, "", scene)
            seen = read_picture(archive.read(name), name)[0].samples
            np.testing.assert_array_equal(seen.view(np.uint32), said.view(np.uint32))
            plain = picture(lantern, (40, 32), lambda key: None, "", scene)
            coded = np.where(seen <= 0.0031308, seen * 12.92, 1.055 * seen ** (1 / 2.4) - 0.055)
            np.testing.assert_array_equal(np.rint(coded[..., :3] * 255), plain[..., :3])

    def test_the_lantern_flickers_without_a_seam_and_its_lamp_with_it(self) -> None:
        lantern = signal_lantern({})
        _, loop = self.filmed(lantern, Film("png", 24, 24, 0, 40, 10))
        self.assertIn("without a seam", loop.words)
        lit = [Scene.of_graph(lantern, time=time).rig.lamps[0].colour[0] for time in (0.0, 1.75)]
        self.assertAlmostEqual(lit[1] / lit[0], 0.22)

    def test_variants_side_by_side_from_the_command_line(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            source, output = Path(folder) / "lantern.moth.json", Path(folder) / "frames"
            source.write_text(write_graph_file(GraphFile(signal_lantern({}))))
            asked = ["render", str(source), "--frames", "0:2", "--fps", "4", "--size", "32x24", "--sheet", "--clear"]
            self.assertEqual(main([*asked, "-o", str(output)]), 0)
            names = sorted(path.name for path in output.iterdir())
            self.assertEqual(names, ["frame_0000.png", "frame_0001.png"])
            self.assertEqual(Image.open(output / names[0]).size, (64, 48))
            before = sorted(Path(folder).iterdir())
            for wrong in (
                ["--frames", "2:2"],
                ["--frames", "x"],
                ["--frames", "0:2", "--film", "sheet", "--columns", "3"],
            ):
                self.assertEqual(main(["render", str(source), *wrong, "-o", str(Path(folder) / "film.mp4")]), 1)
            self.assertEqual(main(["render", str(source), "--frames", "0:2", "-o", str(Path(folder) / "film.gif")]), 1)
            self.assertEqual(sorted(Path(folder).iterdir()), before, "what is refused writes nothing")

    def test_each_format_says_roughly_what_it_will_weigh(self) -> None:
        eight = Film("png", 96, 96, 0, 8, 8, is_clear=True)
        drawn = list(frames(eight, signal_lantern({}), lambda key: None))
        for key, made in FILM_FORMATS.items():
            film = replace(eight, format=key)
            shown = [frame.astype(np.float32) / 255 for frame in drawn] if made.holds_light else drawn
            with self.subTest(made.name, said=film.weight), tempfile.TemporaryFile() as file:
                write_film(film, file, shown)
                weighs = file.seek(0, 2)
                self.assertLess(abs(np.log2(film.weight / weighs)), 2.0, f"it weighs {weighs}")


if __name__ == "__main__":
    unittest.main()
