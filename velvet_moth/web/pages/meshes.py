"""The room of meshes: looking at them, reading them right."""

from flask import Blueprint, render_template

from velvet_moth.core.baking.step import MESHES as FAMILY
from velvet_moth.core.forms.mesh import VERTEX_CHANNELS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.making.recipe import SIZES
from velvet_moth.core.making.step import TEXTURES
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.core.meshes.formats import MOST_BYTES as MOST_IN_A_MESH
from velvet_moth.core.meshes.orient import UNIT_NAMES, UPS
from velvet_moth.core.meshes.source import DEPTHS
from velvet_moth.store import projects
from velvet_moth.web.apart import apart
from velvet_moth.web.api.mesh_stacks import all_steps
from velvet_moth.web.database import db
from velvet_moth.web.pages.stage_settings import settings_for_stage
from velvet_moth.web.plain_json import embedded

page = Blueprint("meshes_room", __name__)


def settings() -> str:
    """What the scripts need to know of the core, as JSON."""
    told = {
        **settings_for_stage(),
        "ups": UPS,
        "units": UNIT_NAMES,
        "depths": list(DEPTHS),
        "stack": {"steps": all_steps(), "groups": list(FAMILY.groups), "depths": list(FAMILY.depths)},
        "places": list(VERTEX_CHANNELS),
        "sizes": list(SIZES),
        "bake_depths": list(TEXTURES.depths),
        "formats": [
            {"key": f.key, "name": f.name, "keeps": f.keeps, "levels": f.holds_levels} for f in FORMATS.values()
        ],
    }
    return embedded(told)


@page.get("/meshes")
def show() -> str:
    # Whoever comes here will likely bring files.
    apart().make_ready()
    return render_template(
        "meshes.html",
        project=projects.first(db()),
        settings=settings(),
        rigs=RIGS,
        most_bytes=MOST_IN_A_MESH,
        suffixes=",".join(suffix for f in FORMATS.values() for suffix in f.suffixes),
    )
