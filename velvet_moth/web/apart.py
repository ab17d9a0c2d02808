"""Where the application reads what is untrusted."""

from flask import current_app

from velvet_moth.core.base.apart import Apart
from velvet_moth.core.meshes.apart import MeshReader
from velvet_moth.core.pictures.formats.apart import PictureReader


def apart() -> Apart:
    """The processes of the application that answers."""
    found: Apart = current_app.extensions["apart"]
    return found


def reader() -> PictureReader:
    """What reads pictures there."""
    return PictureReader(apart())


def mesh_reader() -> MeshReader:
    """What reads meshes there."""
    return MeshReader(apart())
