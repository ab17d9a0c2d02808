"""Graphs of the project that can be chosen as surfaces of something else."""

from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.store import listing
from velvet_moth.web.api.answers import SurfaceChoices
from velvet_moth.web.database import db


def surface_choices(project_id: int) -> SurfaceChoices:
    """The graphs that can be drawn as a solid, by title, with their variants."""
    casting = [key for key, kind in KINDS.items() if kind.casts]
    return {
        "graphs": [
            {
                "graph": str(one.id),
                "title": one.title,
                "variants": [{"id": key, "name": name} for key, name in one.variants],
            }
            for one in listing.of_kinds(db(), project_id, casting)
        ]
    }
