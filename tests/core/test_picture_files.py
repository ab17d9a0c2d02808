"""Picture files: what comes in goes out bit for bit, and whatever is broken or hostile gets a sentence."""

import io
import json
import multiprocessing
import resource
import struct
import tempfile
import time
import unittest
import zipfile
import zlib
from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.convert import as_zip, file_names, fitted, one_channel
from velvet_moth.core.pictures.formats import (
    DEPTHS,
    FORMATS,
    LARGEST_SIDE,
    WRITABLE,
    Picture,
    read_picture,
    write_picture,
    write_png,
)
from velvet_moth.core.pictures.library import NamedPicture
from velvet_moth.core.pictures.reading import Reading

RANDOM = np.random.default_rng(11)
MOST_SECONDS, MOST_GROWTH = 2.0, 512 << 20


def random_picture(depth: str, channels: int, rows: int = 19, columns: int = 23) -> Picture:
    if depth.startswith("uint"):
        most = np.iinfo(depth).max
        return Picture(RANDOM.integers(0, most + 1, (rows, columns, channels)).astype(depth))
    return Picture(RANDOM.normal(0, 40, (rows, columns, channels)).astype(depth))


def by_pillow(kind: str, mode: str, size: tuple[int, int] = (40, 24), **options: object) -> bytes:
    channels = {"L": 1, "LA": 2, "RGB": 3, "RGBA": 4, "CMYK": 4, "P": 1, "1": 1}[mode]
    samples = RANDOM.integers(0, 256, (size[1], size[0], channels), dtype=np.uint8)
    out = io.BytesIO()
    made = Image.fromarray(samples[..., 0] if channels == 1 else samples, "L" if mode in ("P", "1") else mode)
    made.convert(mode).save(out, kind, **options)
    return out.getvalue()


def png_of(width: int, height: int, packed: bytes, bits: int = 8, colour: int = 6) -> bytes:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    header = struct.pack(">IIBBBBB", width, height, bits, colour, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", packed) + chunk(b"IEND", b"")


def exr_of(channels: Mapping[str, np.ndarray]) -> bytes:
    told = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with tempfile.TemporaryDirectory() as folder, OpenEXR.File(told, dict(channels)) as file:
        file.write(f"{folder}/made.exr")
        return Path(f"{folder}/made.exr").read_bytes()


def hdr_of(rows: int = 16, columns: int = 24) -> bytes:
    return write_picture(Picture(RANDOM.random((rows, columns, 3), dtype=np.float32) * 9), "hdr")


def edited(data: bytes, at: int, value: bytes) -> bytes:
    return data[:at] + value + data[at + len(value) :]


def hostile_files() -> dict[str, bytes]:
    """Files cut at every boundary of their structure, with wrong sizes, bombs, and other names."""
    png = write_png(random_picture("uint8", 4, 48, 64).samples)
    deep = write_png(random_picture("uint16", 3).samples)
    jpeg = by_pillow("JPEG", "RGB")
    tga, rle = by_pillow("TGA", "RGBA"), by_pillow("TGA", "RGB", compression="tga_rle")
    webp = by_pillow("WEBP", "RGB", lossless=True)
    exr, hdr = write_picture(random_picture("float16", 4, 48, 64), "exr"), hdr_of()
    window = exr.index(b"dataWindow\0box2i\0") + len(b"dataWindow\0box2i\0") + 4
    chunks = exr.index(b"\0\0", window) if b"\0\0" in exr[window:] else window
    zeros = zlib.compress(b"\0" * (64 << 20), 9)
    files = {
        "empty": b"",
        "text": b"no picture at all, only words",
        "gif": b"GIF89a\x01\x00\x01\x00\x00\x00\x00;",
        "svg": b"<svg xmlns='http://www.w3.org/2000/svg'/>",
        "zip": b"PK\x03\x04" + b"\0" * 60,
        "zeros": b"\0" * 4096,
        **{
            f"png cut at {n}": png[:n]
            for n in (4, 8, 16, 25, 33, 37, 41, 60, len(png) // 2, len(png) - 13, len(png) - 4)
        },
        **{f"deep png cut at {n}": deep[:n] for n in (40, len(deep) // 2, len(deep) - 12)},
        **{f"jpeg cut at {n}": jpeg[:n] for n in (3, 20, 160, 400, len(jpeg) // 2, len(jpeg) - 40)},
        **{f"tga cut at {n}": tga[:n] for n in (10, 18, 200, len(tga) // 2)},
        **{f"packed tga cut at {n}": rle[:n] for n in (19, 60, len(rle) // 2)},
        **{f"webp cut at {n}": webp[:n] for n in (12, 20, 30, len(webp) // 2, len(webp) - 9)},
        **{
            f"exr cut at {n}": exr[:n]
            for n in (4, 8, 20, 80, window, window + 10, chunks, 420, len(exr) // 2, len(exr) - 5)
        },
        **{f"hdr cut at {n}": hdr[:n] for n in (11, 30, 60, 80, len(hdr) // 2, len(hdr) - 3)},
        "png: a bit turned": edited(png, 60, bytes([png[60] ^ 255])),
        "png: huge": png_of(100_000, 100_000, zlib.compress(b"\0" * 64)),
        "png: wide": png_of(LARGEST_SIDE + 1, 2, zlib.compress(b"\0" * 64)),
        "png: nothing wide": png_of(0, 4, zlib.compress(b"\0" * 64)),
        "png: fewer pixels than told": png_of(64, 64, zlib.compress(b"\0" * 64)),
        "png: bomb": png_of(64, 64, zeros),
        "png: large and empty": png_of(4096, 4096, zlib.compress(b"\0" * 64)),
        "png: no such colour": png_of(8, 8, zlib.compress(b"\0" * 512), 8, 5),
        "jpeg: huge": jpeg.replace(struct.pack(">HH", 24, 40), struct.pack(">HH", 65000, 65000), 1),
        "tga: huge": edited(tga, 12, struct.pack("<HH", 65535, 65535)),
        "tga: larger than its pixels": edited(tga, 12, struct.pack("<HH", 4096, 4096)),
        "tga: bomb": edited(rle[:18], 12, struct.pack("<HH", 4096, 4096)) + b"\xff\0\0\0" * 40,
        "webp: larger than its pixels": edited(webp, 21, struct.pack("<I", 4095 | 4095 << 14)),
        "exr: huge": edited(exr, window, struct.pack("<4i", 0, 0, 99_999, 99_999)),
        "exr: inside out": edited(exr, window, struct.pack("<4i", 9, 9, 0, 0)),
        "exr: large and empty": edited(exr, window, struct.pack("<4i", 0, 0, 4095, 4095)),
        "exr: overflowing": edited(exr, window, struct.pack("<4i", -(2**31), 0, 2**31 - 1, 9)),
        "exr: deep": edited(exr, 4, struct.pack("<I", 2 | 0x800)),
        "exr: several parts": edited(exr, 4, struct.pack("<I", 2 | 0x1000)),
        "exr: attribute without end": exr[:8] + b"x" * 500,
        "exr: attribute below zero": exr[:8] + b"a\0int\0" + struct.pack("<i", -5) + b"\0" * 50,
        "exr: bomb of channels": exr_of({f"c{i}": np.zeros((2048, 2048), np.float32) for i in range(18)}),
        "hdr: huge": hdr.replace(b"-Y 16 +X 24", b"-Y 99999 +X 99999"),
        "hdr: large and empty": hdr.replace(b"-Y 16 +X 24", b"-Y 4096 +X 4096"),
        "hdr: mirrored": hdr.replace(b"-Y 16 +X 24", b"+Y 16 +X 24"),
        "hdr: no size": hdr.replace(b"-Y 16 +X 24", b"as you like"),
        "hdr: run past its row": edited(hdr, hdr.index(b"+X 24\n") + 10, b"\xff"),
    }
    return files


def _tried(files: Mapping[str, bytes], told: "multiprocessing.connection.Connection") -> None:
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
    for name, data in files.items():
        began, said = time.monotonic(), ["", "", ""]
        try:
            read_picture(data, "upload.png")
        except FileRefused as error:
            said = [error.what, error.where, error.mend]
        grown = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024 - before
        told.send_bytes(json.dumps([name, said, time.monotonic() - began, grown]).encode())


class Hostile(unittest.TestCase):
    def test_each_gets_a_sentence_soon_and_in_little_room(self) -> None:
        files = hostile_files()
        self.assertGreaterEqual(len(files), 60)
        mine, theirs = multiprocessing.get_context("spawn").Pipe()
        # A process of its own: what one file needs must not hide behind what another had.
        process = multiprocessing.get_context("spawn").Process(target=_tried, args=(files, theirs))
        process.start()
        theirs.close()
        for name in files:
            with self.subTest(name):
                self.assertTrue(mine.poll(60), "the reader is still there")
                tried, (what, where, mend), seconds, grown = json.loads(mine.recv_bytes())
                self.assertEqual(tried, name)
                self.assertRegex(what, r"^[A-Z].*\.$", "refused with a sentence")
                self.assertIn("upload.png", where)
                self.assertTrue(mend)
                self.assertLess(seconds, MOST_SECONDS)
                self.assertLess(grown, MOST_GROWTH)
        process.join(30)
        self.assertEqual(process.exitcode, 0)


class RoundTrips(unittest.TestCase):
    def test_what_a_format_carries_comes_back_bit_for_bit(self) -> None:
        for made in FORMATS.values():
            for depth in made.depths:
                for channels in made.channels:
                    with self.subTest(made.key, depth=depth, channels=channels):
                        picture = random_picture(depth, channels)
                        found, read_as = read_picture(write_picture(picture, made.key), f"a{made.suffixes[0]}")
                        self.assertEqual((read_as.key, found.depth, found.note), (made.key, depth, ""))
                        np.testing.assert_array_equal(found.samples, picture.samples)

    def test_radiance_keeps_three_digits(self) -> None:
        picture = Picture(RANDOM.random((20, 30, 3), dtype=np.float32) * 50)
        found = read_picture(write_picture(picture, "hdr"), "a.hdr")[0].samples
        largest = picture.samples.max(axis=2, keepdims=True)
        off = (found - picture.samples) / largest
        self.assertLess(np.abs(off).max(), 1 / 255, "half a step of the 8 bits that share an exponent")
        self.assertLess(abs(off.mean()), 1e-4, "rounded, not cut off")
        near = np.array([255.4, 255.6, 256.0, 1.9999, 0.5], np.float32)
        edges = Picture(np.repeat(near, 3).reshape(1, 5, 3))
        held = read_picture(write_picture(edges, "hdr"), "a.hdr")[0].samples
        np.testing.assert_allclose(held[0, :, 0], (255.0, 256.0, 256.0, 2.0, 0.5))

    def test_a_format_refuses_what_it_cannot_carry(self) -> None:
        for depth, channels, key in (
            ("float32", 3, "png"),
            ("uint16", 4, "tga"),
            ("uint8", 3, "exr"),
            ("uint8", 3, "jpeg"),
        ):
            with self.subTest(key), self.assertRaises(FileRefused) as caught:
                write_picture(random_picture(depth, channels), key)
            self.assertTrue(caught.exception.mend)


class Out(unittest.TestCase):
    def test_any_picture_goes_out_in_any_format(self) -> None:
        for depth in DEPTHS:
            for channels in (1, 2, 3, 4):
                picture = Picture(np.clip(np.abs(random_picture(depth, channels).samples), 0, None))
                for key in WRITABLE:
                    with self.subTest(key, depth=depth, channels=channels):
                        found, _ = read_picture(write_picture(fitted(picture, key), key), "a")
                        self.assertEqual(found.size, picture.size)

    def test_a_set_is_named_by_a_pattern(self) -> None:
        made = [
            NamedPicture(name, Reading("data"), random_picture("uint16", 1, 4, 4)) for name in ("Rust a", "Rust/a", "Ü")
        ]
        with zipfile.ZipFile(io.BytesIO(as_zip(made, "png", "{role}_{name}_{width}"))) as folder:
            self.assertEqual(folder.namelist(), ["data_rust-a_4.png", "data_rust-a_4-2.png", "data_-_4.png"])
            found, _ = read_picture(folder.read("data_rust-a_4.png"), "a.png")
        np.testing.assert_array_equal(found.samples, made[0].picture.samples)
        with self.assertRaisesRegex(FileRefused, "'colour', which is not known"):
            file_names("{colour}", [], ".png")
        grey = one_channel(random_picture("uint8", 4), "alpha")
        self.assertEqual(grey.channels, 1)


class Kinds(unittest.TestCase):
    def test_every_kind_of_file_is_read(self) -> None:
        cases: dict[str, tuple[bytes, tuple[int, str]]] = {
            "grey.jpg": (by_pillow("JPEG", "L"), (1, "uint8")),
            "press.jpg": (by_pillow("JPEG", "CMYK"), (3, "uint8")),
            "palette.png": (by_pillow("PNG", "P"), (3, "uint8")),
            "bits.png": (by_pillow("PNG", "1"), (1, "uint8")),
            "grey.tga": (by_pillow("TGA", "L"), (1, "uint8")),
            "packed.tga": (by_pillow("TGA", "RGBA", compression="tga_rle"), (4, "uint8")),
            "mapped.tga": (by_pillow("TGA", "P"), (3, "uint8")),
            "lossy.webp": (by_pillow("WEBP", "RGBA"), (4, "uint8")),
            "still.hdr": (hdr_of(), (3, "float32")),
            "narrow.hdr": (hdr_of(5, 6), (3, "float32")),
        }
        for name, (data, (channels, depth)) in cases.items():
            with self.subTest(name):
                found, _ = read_picture(data, name)
                self.assertEqual((found.channels, found.depth), (channels, depth))

    def test_rows_stand_from_the_bottom_whatever_the_file_says(self) -> None:
        upright = np.zeros((4, 6, 3), dtype=np.uint8)
        upright[0] = 200
        stored = io.BytesIO()
        Image.fromarray(upright).save(stored, "TGA", orientation=1)
        for name, data in (("a.tga", stored.getvalue()), ("a.png", write_png(upright[::-1]))):
            samples = read_picture(data, name)[0].samples
            self.assertEqual((samples[-1].mean(), samples[0].mean()), (200, 0), name)
        exif = Image.Exif()
        exif[0x0112] = 3
        turned = io.BytesIO()
        Image.fromarray(upright.repeat(8, 0).repeat(8, 1)).save(turned, "JPEG", exif=exif, quality=95)
        samples = read_picture(turned.getvalue(), "a.jpg")[0].samples
        self.assertGreater(samples[0].mean(), 180, "a camera's turn is followed")

    def test_a_file_under_another_name(self) -> None:
        samples = RANDOM.integers(0, 256, (9, 13, 3), dtype=np.uint8)
        out = io.BytesIO()
        Image.fromarray(samples).save(out, "TGA")
        found, made = read_picture(out.getvalue(), "really.png")
        self.assertEqual(made.key, "tga")
        self.assertIn("Its name says PNG, but it is TGA", found.note)
        np.testing.assert_array_equal(found.samples[::-1], samples)

    def test_what_is_no_number_is_mended_and_told(self) -> None:
        values = np.full((8, 8), 2.0, np.float16)
        values[0, 0], values[0, 1], values[0, 2] = np.nan, np.inf, -np.inf
        found, _ = read_picture(exr_of({"R": values, "G": values, "B": values}), "a.exr")
        self.assertIn("3 pixels that were no numbers", found.note)
        self.assertTrue(np.isfinite(found.samples).all())
        self.assertEqual(float(found.samples[-1, 0, 0]), 0.0)

    def test_layers_of_an_exr(self) -> None:
        plane: Callable[[float], np.ndarray] = lambda v: np.full((4, 5), v, np.float32)  # noqa: E731 - asked often
        layers = {"R": plane(1), "G": plane(2), "B": plane(3), "Z": plane(9)}
        found, _ = read_picture(exr_of(layers), "a.exr")
        self.assertEqual(found.samples[0, 0].tolist(), [1, 2, 3])
        self.assertIn("Z", found.note)
        found, _ = read_picture(exr_of({"depth.V": plane(7)}), "a.exr")
        self.assertEqual((found.channels, float(found.samples[0, 0, 0])), (1, 7.0))


if __name__ == "__main__":
    unittest.main()
