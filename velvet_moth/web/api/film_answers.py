"""What answers about films hold; see ``answers``."""

from typing_extensions import TypedDict


class FilmFormatState(TypedDict):
    """A way to keep a film. ``is_even``: its sides are even numbers of pixels; ``holds_light``: only the reference draws it."""

    key: str
    name: str
    words: str
    keeps_clear: bool
    holds_light: bool
    is_even: bool
    is_sheet: bool


class FilmFormats(TypedDict):
    formats: list[FilmFormatState]


class FilmWeight(TypedDict):
    """What a film will be: about so many bytes, its frames, and the pixels of one; and why it cannot be."""

    bytes: int
    frames: int
    width: int
    height: int
    wrong: str


class FilmState(TypedDict):
    """A film that is kept. ``words`` say whether it repeats without a seam; ``size`` are its bytes."""

    id: str
    name: str
    format: str
    words: str
    size: int
    made: str
    frames: int
    rate: int
    width: int
    height: int
    columns: int


class Films(TypedDict):
    films: list[FilmState]


class ComingFilmState(TypedDict):
    """A film whose frames are awaited."""

    key: str
    frames: int


class FramesHere(TypedDict):
    """How many frames have come."""

    frames: int
