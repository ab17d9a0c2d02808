"""MP4, WebM and animated PNG, by PyAV. Colours are those of BT.709 with the transfer function of sRGB, and the files say so."""

from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction
from typing import BinaryIO

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace
from av.video.stream import VideoStream

from velvet_moth.core.pictures.films.base import FilmFormat, FilmShape, Frame, FrameWriter, on_ground

# Of ITU-T H.273: primaries and matrix of BT.709, the transfer function of sRGB, and video levels (16 to 235).
_BT709, _SRGB, _VIDEO_LEVELS = 1, 13, 1


@dataclass(frozen=True)
class Coding:
    """How frames are coded: container, codec, form of pixels, and what the two are given."""

    container: str
    codec: str
    pixels: str
    codec_options: Mapping[str, str]
    container_options: Mapping[str, str]

    @property
    def is_video(self) -> bool:
        """Whether pixels are luminance and colour difference."""
        return self.pixels.startswith("yuv")


class _AvWriter(FrameWriter):
    def __init__(self, file: BinaryIO, shape: FilmShape, coding: Coding) -> None:
        super().__init__(file, shape)
        self.coding = coding
        self.count = 0
        self.container = av.open(file, "w", format=coding.container, options=dict(coding.container_options))
        stream = self.container.add_stream(coding.codec, rate=shape.rate)
        assert isinstance(stream, VideoStream)
        self.stream = stream
        stream.width, stream.height, stream.pix_fmt = shape.width, shape.height, coding.pixels
        stream.options = dict(coding.codec_options)
        if coding.is_video:
            context = stream.codec_context
            context.color_range, context.colorspace = _VIDEO_LEVELS, _BT709
            context.color_primaries, context.color_trc = _BT709, _SRGB

    def add(self, frame: Frame) -> None:
        keeps_alpha = self.coding.pixels in ("rgba", "yuva420p")
        pixels = np.ascontiguousarray((frame if keeps_alpha else on_ground(frame, self.shape.ground))[::-1])
        made = av.VideoFrame.from_ndarray(pixels, format="rgba" if keeps_alpha else "rgb24")
        if self.coding.is_video:
            made = made.reformat(
                format=self.coding.pixels,
                src_colorspace=Colorspace.ITU709,
                dst_colorspace=Colorspace.ITU709,
                src_color_range=ColorRange.JPEG,
                dst_color_range=ColorRange.MPEG,
            )
        made.pts, made.time_base = self.count, Fraction(1, self.shape.rate)
        self.count += 1
        self.container.mux(self.stream.encode(made))

    def finish(self) -> None:
        self.container.mux(self.stream.encode(None))
        self.container.close()


def _format(key: str, name: str, words: str, media_type: str, weighs: float, coding: Coding) -> FilmFormat:
    return FilmFormat(
        key,
        name,
        words,
        f".{key}",
        media_type,
        weighs,
        lambda file, shape: _AvWriter(file, shape, coding),
        keeps_clear=coding.pixels in ("rgba", "yuva420p"),
        is_even=coding.is_video,
    )


MP4 = _format(
    "mp4",
    "MP4",
    "H.264, played everywhere; without alpha",
    "video/mp4",
    0.03,
    Coding("mp4", "libx264", "yuv420p", {"crf": "16", "preset": "medium"}, {}),
)
WEBM = _format(
    "webm",
    "WebM",
    "VP9 for web pages, with alpha",
    "video/webm",
    0.03,
    Coding("webm", "libvpx-vp9", "yuva420p", {"crf": "20", "b:v": "0", "cpu-used": "4", "row-mt": "1"}, {}),
)
APNG = _format(
    "apng",
    "Animated PNG",
    "every pixel as it is, with alpha; repeats",
    "image/apng",
    1.2,
    Coding("apng", "apng", "rgba", {}, {"plays": "0"}),
)
