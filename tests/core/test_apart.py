"""Pictures read in a process apart: as in this one, and stopped where they take too long or too much."""

import unittest
from typing import ClassVar

import cv2
import numpy as np

from velvet_moth.core.base.apart import Apart
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.pictures.formats.apart import PictureReader

PICTURE = cv2.imencode(".png", np.random.default_rng(3).integers(0, 255, (300, 200, 3), np.uint8))[1].tobytes()
# Radiance HDR in which every run is one number long: millions of steps before the first pixel.
RUNS = b"#?RADIANCE\n\n-Y 4000 +X 4096\n" + (b"\x02\x02\x10\x00" + b"\x01\x80" * 16384) * 1000


class Reading(unittest.TestCase):
    reader: ClassVar[PictureReader]

    @classmethod
    def setUpClass(cls) -> None:
        apart = Apart()
        cls.reader = PictureReader(apart)
        cls.addClassCleanup(apart.close)

    def test_it_reads_as_this_process_does(self) -> None:
        picture, format_ = self.reader.read(PICTURE, "small.png")
        here, _ = read_picture(PICTURE, "small.png")
        self.assertEqual(format_.key, "png")
        np.testing.assert_array_equal(picture.samples, here.samples)

    def test_refusals_keep_their_place_and_their_mend(self) -> None:
        cut = PICTURE[:-40]
        with self.assertRaises(FileRefused) as here:
            read_picture(cut, "cut.png")
        with self.assertRaises(FileRefused) as apart:
            self.reader.read(cut, "cut.png")
        self.assertEqual(str(apart.exception), str(here.exception))

    def test_what_takes_too_long_or_too_much_is_stopped_and_the_next_file_is_read(self) -> None:
        for words, reader, data in (
            ("longer than 1 seconds", PictureReader(Apart(), patience=1.0), RUNS),
            ("more memory|cannot be read", PictureReader(Apart(room=1 << 20)), PICTURE),
        ):
            self.addCleanup(reader.apart.close)
            with self.subTest(words):
                with self.assertRaisesRegex(FileRefused, words) as caught:
                    reader.read(data, "heavy.png")
                self.assertTrue(caught.exception.mend)
        self.assertEqual(self.reader.read(PICTURE, "next.png")[0].size, (200, 300))
