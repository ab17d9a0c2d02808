"""Where the application reads what is untrusted."""

from flask import current_app

from velvet_moth.core.pictures.formats.apart import PictureReader


def reader() -> PictureReader:
    """Of the application that answers."""
    found: PictureReader = current_app.extensions["picture_reader"]
    return found
