"""What is asked of an export."""

import re
from dataclasses import dataclass

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.language.dialects import DIALECTS, Dialect

_PREFIX = re.compile(r"[a-z][a-z0-9]*(_[a-z0-9]+)*_?")
LONGEST_PREFIX = 24


@dataclass(frozen=True)
class Choices:
    """The language and shape of an export by their keys, what all names begin with, and the variant whose values are the defaults.

    ``switches`` leaves the toggles that parameters open to who builds the text; with an ``entry`` the text is a whole stage for
    pixels; ``reduced`` lets devices hold values with fewer bits where ranges prove that it is safe; ``packed`` puts textures of single
    numbers together.
    """

    language: str = "glsl"
    shape: str = "surface"
    prefix: str = "moth_"
    variant: str = ""
    switches: bool = False
    entry: bool = False
    reduced: bool = False
    packed: bool = False

    @property
    def dialect(self) -> Dialect:
        """The language."""
        return DIALECTS[self.language]


def checked(choices: Choices) -> Choices:
    """The choices; OperationRefused where the language, the shape or the prefix cannot be."""
    named = (choices.language, list(DIALECTS), "language"), (choices.shape, list(SHAPES), "shape")
    for chosen, known, what in named:
        if chosen not in known:
            raise OperationRefused(f"There is no such {what}.", chosen[:40], f"Choose one of {', '.join(known)}.")
    if len(choices.prefix) > LONGEST_PREFIX or not _PREFIX.fullmatch(choices.prefix):
        raise OperationRefused(
            f"A prefix has 1 to {LONGEST_PREFIX} small letters, digits and single underscores, and begins with a letter.",
            "prefix",
            "Type another one, such as moth_.",
        )
    if choices.reduced and choices.dialect.reduced is None:
        raise OperationRefused(
            f"{choices.dialect.name} leaves no choice of precision to devices.",
            "precision",
            "Keep full precision, or choose another language.",
        )
    return choices
