"""Picture files read in a process of their own."""

from velvet_moth.core.base.apart import Apart
from velvet_moth.core.pictures.formats import FORMATS, Picture, PictureFormat, check_file, read_picture

# Seconds; the largest sound file of any format takes a third of them on a slow machine.
PATIENCE = 10.0


def _read(data: bytes, name: str) -> tuple[Picture, str]:
    picture, made = read_picture(data, name)
    return picture, made.key


class PictureReader:
    """Reads pictures in the processes of ``apart``."""

    def __init__(self, apart: Apart, patience: float = PATIENCE) -> None:
        self.apart, self.patience = apart, patience

    def read(self, data: bytes, name: str) -> tuple[Picture, PictureFormat]:
        """As ``read_picture``; FileRefused also where reading takes too long or too much memory."""
        check_file(data, name)
        smaller = "Scale it first, or save it without layers or passes it does not need."
        picture, key = self.apart.read(self.patience, smaller, _read, data, name)
        return picture, FORMATS[key]
