"""Looking at a picture: what each channel holds, what kind of map it is, and what is wrong with it, in sentences."""

from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from velvet_moth.core.language.texture import Floats
from velvet_moth.core.pictures.formats.base import Picture
from velvet_moth.core.pictures.levels import outline_share
from velvet_moth.core.pictures.reading import Green, Reading, RoleKey

CHANNELS = ("red", "green", "blue", "alpha")
BINS = 64
# Half a step of 8 bits, and a little more.
SAME = 0.6 / 255
# Pictures larger than this are looked at by every second, third ... pixel.
_LOOKED_AT = 1024


def values_of(picture: Picture) -> Floats:
    """(channels, rows, columns) as a file keeps them, whole numbers as 0..1."""
    return _numbers(picture.samples.transpose(2, 0, 1))


def _numbers(samples: NDArray[Any]) -> Floats:
    """Samples as numbers, whole ones as 0..1."""
    if samples.dtype.kind == "u":
        return np.asarray(samples, dtype=np.float32) / np.float32(np.iinfo(samples.dtype).max)
    return samples.astype(np.float32)


def channel_names(picture: Picture) -> tuple[str, ...]:
    """The names of a picture's channels."""
    return {1: ("grey",), 2: ("grey", "alpha"), 3: CHANNELS[:3], 4: CHANNELS}[picture.channels]


@dataclass(frozen=True)
class Channel:
    """What one channel holds: 0..1 for whole numbers. ``low_clip`` and ``high_clip`` are shares of pixels at 0 and 1;
    ``counts`` a histogram of BINS equal bins over ``low`` to ``high`` of ``span``."""

    name: str
    low: float
    high: float
    mean: float
    low_clip: float
    high_clip: float
    span: tuple[float, float]
    counts: tuple[int, ...]

    @property
    def is_constant(self) -> bool:
        """Whether it is the same everywhere."""
        return self.high - self.low <= SAME


def statistics(picture: Picture) -> tuple[Channel, ...]:
    """One record a channel, over every pixel."""
    summed = _of_whole_numbers if picture.samples.dtype.kind == "u" else _of_floats
    return tuple(summed(name, picture.samples[..., i]) for i, name in enumerate(channel_names(picture)))


def _of_whole_numbers(name: str, samples: NDArray[Any]) -> Channel:
    """From how often each value stands there, which is counted once and quickly."""
    most = int(np.iinfo(samples.dtype).max)
    often = np.bincount(samples.ravel(), minlength=most + 1)
    there = np.flatnonzero(often)
    values = np.arange(most + 1) / most
    counts, _ = np.histogram(values, bins=BINS, range=(0.0, 1.0), weights=often)
    return Channel(
        name,
        float(values[there[0]]),
        high=float(values[there[-1]]),
        mean=float((values * often).sum() / samples.size),
        low_clip=float(often[0] / samples.size),
        high_clip=float(often[-1] / samples.size),
        span=(0.0, 1.0),
        counts=tuple(int(c) for c in counts),
    )


def _of_floats(name: str, samples: NDArray[Any]) -> Channel:
    values = samples.astype(np.float32)
    low, high = float(values.min()), float(values.max())
    span = (min(low, 0.0), max(high, 1.0))
    counts, _ = np.histogram(values, bins=BINS, range=span)
    return Channel(
        name,
        low,
        high=high,
        mean=float(values.mean(dtype=np.float64)),
        low_clip=float((values <= 0).mean()),
        high_clip=float((values >= 1).mean()),
        span=span,
        counts=tuple(int(c) for c in counts),
    )


@dataclass(frozen=True)
class Guess:
    """What kind of map a picture seems to be: how sure (0..1), and why."""

    reading: Reading
    confidence: float
    reason: str


def _thinned(picture: Picture) -> Floats:
    step = max(1, -(-max(picture.size) // _LOOKED_AT))
    return values_of(Picture(picture.samples[::step, ::step]))


def unit_share(values: Floats) -> float:
    """The share of pixels that are directions of unit length pointing out of the surface, within a tenth."""
    normal = values[:3] * 2 - 1
    length = np.sqrt((normal**2).sum(axis=0))
    return float(((np.abs(length - 1) < 0.1) & (normal[2] > -0.05)).mean())


def green_of(values: Floats) -> tuple[Green, float]:
    """Which way green points in a normal map, and how sure that is (0..1).

    Slopes of a real surface are those of one height: what the height rises by to the right and then up is what it
    rises by up and then right. With green the other way round the two differ (the curl of a gradient is zero).
    """
    normal = values[:3] * 2 - 1
    depth = np.maximum(normal[2], 0.05)
    right, up = -normal[0] / depth, -normal[1] / depth
    across = np.diff(right, axis=0)[:, :-1] + np.diff(right, axis=0)[:, 1:]
    along = np.diff(up, axis=1)[:-1] + np.diff(up, axis=1)[1:]
    as_up, as_down = float(np.abs(across - along).mean()), float(np.abs(across + along).mean())
    total = as_up + as_down
    if total < 1e-6:
        return "up", 0.0
    return ("up" if as_up <= as_down else "down"), abs(as_up - as_down) / total


def guess(picture: Picture, name: str = "") -> Guess:
    """What the picture is by its content; its name only tips the balance."""
    values = _thinned(picture)
    lowered = name.lower()
    if picture.channels >= 3:
        red, green, blue = values[:3]
        share = unit_share(values)
        leans = abs(float(red.mean()) - 0.5) < 0.12 and abs(float(green.mean()) - 0.5) < 0.12
        if share > 0.9 and leans and float(np.ptp(blue)) + float(np.ptp(red)) > SAME:
            way, sure = green_of(values)
            told = f"; its slopes fit one height with green {way}" if sure > 0.2 else ""
            return Guess(
                Reading("normal", way if sure > 0.2 else "up"),
                share,
                f"{share:.0%} of its pixels are directions of unit length out of the surface{told}",
            )
        if float(np.ptp(blue)) <= SAME and leans and float(np.ptp(red)) > 0.05 and float(np.ptp(green)) > 0.05:
            return Guess(Reading("flow"), 0.7, "red and green lie around the middle and blue is the same everywhere")
        is_grey = float(np.abs(red - green).max()) <= SAME and float(np.abs(red - blue).max()) <= SAME
    else:
        is_grey = True
    if picture.depth.startswith("float") and not is_grey:
        return Guess(Reading("data"), 0.6, "it holds floats, which are light or numbers as they stand")
    if is_grey:
        is_height = "height" in lowered or "disp" in lowered or "bump" in lowered
        role: RoleKey = "height" if is_height else "data"
        return Guess(
            Reading(role), 0.8, "all its pixels are grey" + (", and its name says height" if is_height else "")
        )
    hints = ("rough", "mask", "metal", "occlusion", "_ao", "_orm", "opacity", "data")
    if any(hint in lowered for hint in hints):
        return Guess(Reading("data"), 0.6, "its name says so; its pixels are coloured, as packed channels are")
    return Guess(Reading("colour"), 0.7, "its pixels are coloured")


@dataclass(frozen=True)
class Verdict:
    """Something about a picture that is worth knowing: ``severity`` is ``warning`` or ``note``.

    ``reading`` is a better one that one press takes, where there is one; ``channel`` the one it is about.
    """

    code: str
    severity: Literal["warning", "note"]
    what: str
    reading: Reading | None = None
    channel: str = ""


@dataclass(frozen=True)
class Inspection:
    """All that is found out about a picture as it is read."""

    channels: tuple[Channel, ...]
    guess: Guess
    verdicts: tuple[Verdict, ...] = field(default=())


def _percent(share: float) -> str:
    return f"{share:.0%}" if share >= 0.01 else "under 1%"


def _flat_channels(picture: Picture, channels: tuple[Channel, ...], role: str) -> list[Verdict]:
    found = []
    for channel in channels:
        if not channel.is_constant:
            continue
        if channel.name == "alpha":
            others = "R or luminance" if picture.channels > 2 else "grey"
            if channel.low >= 1 - SAME:
                found.append(
                    Verdict("flat-alpha", "note", f"Alpha is 1 everywhere: read {others} instead.", channel="alpha")
                )
            elif channel.high <= SAME:
                found.append(
                    Verdict("flat-alpha", "warning", f"Alpha is 0 everywhere: read {others} instead.", channel="alpha")
                )
        elif role not in ("flow",):
            what = f"{channel.name.capitalize()} is {channel.low:.2f} everywhere: it carries nothing."
            found.append(Verdict("flat-channel", "note", what, channel=channel.name))
    return found


def _ranges(channels: tuple[Channel, ...], role: str) -> list[Verdict]:
    if role not in ("data", "height"):
        return []
    found = []
    seen: set[tuple[float, float]] = set()
    for channel in channels:
        span = (round(channel.low, 3), round(channel.high, 3))
        if channel.is_constant or channel.name == "alpha" or span in seen:
            continue
        seen.add(span)
        if channel.low > 0.1:
            what = f"No pixel of {channel.name} is below {channel.low:.2f}: as a mask it never reaches black."
            found.append(Verdict("never-black", "note", what, channel=channel.name))
        if channel.high < 0.9:
            what = f"No pixel of {channel.name} is above {channel.high:.2f}: as a mask it never reaches white."
            found.append(Verdict("never-white", "note", what, channel=channel.name))
        if role == "height" and max(channel.low_clip, channel.high_clip) > 0.02:
            end = "black" if channel.low_clip > channel.high_clip else "white"
            share = _percent(max(channel.low_clip, channel.high_clip))
            what = f"{share} of {channel.name} is cut off at {end}: the height is flat there."
            found.append(Verdict("clipped", "warning", what, channel=channel.name))
    return found


def _reading_verdicts(picture: Picture, values: Floats, reading: Reading, best: Guess) -> list[Verdict]:
    found = []
    if reading.role == "normal":
        if picture.channels < 3:
            what = "A grey picture is no normal map: make one from it, or read it as a height."
            found.append(Verdict("not-a-normal", "warning", what, Reading("height")))
        else:
            low = float((values[2] < 0.5).mean())
            share = unit_share(values)
            if low > 0.02:
                what = f"Blue is under 0.5 in {_percent(low)} of the pixels: not a tangent-space normal map."
                found.append(Verdict("not-a-normal", "warning", what, Reading("data")))
            elif share < 0.8:
                what = f"Only {_percent(share)} of its pixels are directions of unit length: is this a normal map?"
                found.append(
                    Verdict("not-a-normal", "warning", what, best.reading if best.reading != reading else None)
                )
            else:
                way, sure = green_of(values)
                if sure > 0.2 and way != reading.green:
                    what = f"Its slopes fit green {way}, but green is read as {reading.green}: bumps look like dents."
                    found.append(Verdict("other-green", "warning", what, Reading("normal", way)))
    elif best.reading.role == "normal" and best.confidence > 0.9:
        what = f"This looks like a normal map ({best.reason}), but it is read as {reading.role}."
        found.append(Verdict("is-a-normal", "warning", what, best.reading))
    elif reading.role == "colour" and best.reading.role in ("data", "height") and best.confidence >= 0.6:
        what = f"This looks like data ({best.reason}), but it is decoded as colour: 0.5 is read as 0.21."
        found.append(Verdict("mask-as-colour", "warning", what, best.reading))
    return found


def _seam(edge: NDArray[np.float32], lines: NDArray[np.float32]) -> bool:
    """Whether the step over the edge is larger than nearly all steps from one line of pixels to the next inside."""
    across = float(np.abs(edge).mean())
    return across > 0.02 and across > 1.5 * float(np.quantile(lines, 0.98))


def _goes_on(samples: NDArray[Any]) -> bool:
    """Whether the last line of (channels, across, lines) goes on in the first as lines do in each other.

    Of large pictures some of the lines are looked at, each with the one after it.
    """
    across, lines = (max(1, side // _LOOKED_AT) for side in samples.shape[1:])
    thinned = samples[:, ::across]
    edge = _numbers(thinned[:, :, 0]) - _numbers(thinned[:, :, -1])
    inside = _numbers(thinned[:, :, 1::lines]) - _numbers(thinned[:, :, :-1:lines])
    return not _seam(edge, np.abs(inside).mean(axis=(0, 1)))


def seams(samples: NDArray[Any]) -> tuple[str, ...]:
    """The pairs of edges over which a picture, (channels, rows, columns), does not go on when it is repeated."""
    if min(samples.shape[1:]) < 4:
        return ()
    found = (
        "" if _goes_on(samples) else "left and right",
        "" if _goes_on(samples.swapaxes(1, 2)) else "top and bottom",
    )
    return tuple(words for words in found if words)


def inspect(picture: Picture, reading: Reading, name: str = "") -> Inspection:
    """What the picture holds and what is wrong with reading it so."""
    channels, best = statistics(picture), guess(picture, name)
    verdicts = _reading_verdicts(picture, _thinned(picture), reading, best)
    verdicts += _flat_channels(picture, channels, reading.role) + _ranges(channels, reading.role)
    share = outline_share(picture) if reading.is_colour else None
    if share is not None:
        what = (
            f"Its alpha is an outline: every smaller level covers {_percent(share)} too, so it does not thin far off."
        )
        verdicts.append(Verdict("outline", "note", what, channel="alpha"))
    pairs = seams(picture.samples.transpose(2, 0, 1)[:3])
    if pairs:
        what = f"Seams at the {' and at the '.join(pairs)} edge: repeated, it shows where it ends."
        verdicts.append(Verdict("seams", "note", what))
    return Inspection(channels, best, tuple(verdicts))
