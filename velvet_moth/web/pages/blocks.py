"""Block models: drawn on a stage of their own, beside their palette."""

from flask import Blueprint, render_template

from velvet_moth.core.blocks.cells import SIDE
from velvet_moth.core.blocks.drawing import WAYS
from velvet_moth.core.blocks.formats import BLOCK_FORMATS
from velvet_moth.core.blocks.model import ORIGIN
from velvet_moth.core.blocks.of_mesh import BY
from velvet_moth.core.blocks.shapes import SHAPES
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.meshes.formats import FORMATS
from velvet_moth.store import projects
from velvet_moth.web.api.block_surface import one_block
from velvet_moth.web.api.blocks import MARGIN
from velvet_moth.web.database import db
from velvet_moth.web.pages.settings import BlockSettings
from velvet_moth.web.pages.stage_settings import settings_for_stage
from velvet_moth.web.plain_json import embedded

page = Blueprint("blocks_room", __name__)


def settings() -> str:
    """What the scripts need to know of the core, as JSON."""
    told: BlockSettings = {
        **settings_for_stage(),
        "shapes": {key: {"name": s.name, "words": s.words, "has_ends": s.has_ends} for key, s in SHAPES.items()},
        "block_ways": {key: way.name for key, way in WAYS.items()},
        "side": SIDE,
        "origin": ORIGIN,
        "margin": MARGIN,
        "block": one_block(),
        "entries_by": {key: by.name for key, by in BY.items()},
        "formats": {
            **{f.key: f.name for f in FORMATS.values()},
            **{f.key: f.name for f in BLOCK_FORMATS.values() if f.encode},
        },
        "reads": {f.key: f.holds for f in BLOCK_FORMATS.values()},
    }
    return embedded(told)


@page.get("/blocks")
def show() -> str:
    return render_template("blocks.html", project=projects.first(db()), settings=settings(), rigs=RIGS)
