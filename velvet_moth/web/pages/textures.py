"""The room of textures: looking at them, reading them right, making them."""

from flask import Blueprint, render_template

from velvet_moth.core.making import TEXTURES
from velvet_moth.core.making.beginnings import BEGINNINGS
from velvet_moth.core.making.recipe import SIZES
from velvet_moth.core.pictures.formats import FORMATS, WRITABLE
from velvet_moth.core.pictures.reading import ROLES
from velvet_moth.store import projects
from velvet_moth.web.apart import apart
from velvet_moth.web.api.recipes import all_steps
from velvet_moth.web.database import db
from velvet_moth.web.plain_json import embedded

page = Blueprint("textures_room", __name__)


def settings() -> str:
    """What the scripts need to know of the core, as JSON."""
    told = {
        "roles": ROLES,
        "steps": all_steps(),
        "groups": list(TEXTURES.groups),
        "beginnings": BEGINNINGS,
        "sizes": list(SIZES),
        "depths": list(TEXTURES.depths),
        "writable": {key: FORMATS[key].name for key in WRITABLE},
    }
    return embedded(told)


@page.get("/textures")
def show() -> str:
    # Whoever comes here will likely bring files.
    apart().make_ready()
    return render_template("textures.html", project=projects.first(db()), settings=settings())
