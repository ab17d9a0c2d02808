"""Names and words as they may stand in a shader's text. Whatever has a name passes here, wherever that came from."""

import re
from functools import lru_cache

_OTHER = re.compile("[^A-Za-z0-9,()-]+")
_NO_NAME = re.compile("[^a-z0-9]+")
_LONGEST = 80


@lru_cache(maxsize=4096)
def plain_words(text: str) -> str:
    """Letters, digits, single spaces and ",()-": nothing that could end a comment or begin a statement."""
    return _OTHER.sub(" ", text).strip()[:_LONGEST].strip()


def identifier(text: str) -> str:
    """A part of a name of GLSL: small letters, digits and single underscores; two in a row are reserved there."""
    return _NO_NAME.sub("_", plain_words(text).lower()).strip("_")
