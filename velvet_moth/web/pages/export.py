"""The export of one graph: what is chosen, and what comes of it."""

from dataclasses import asdict
from typing import Any

from flask import Blueprint, render_template

from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.graph import Graph
from velvet_moth.core.exporting.baked.glb import MOST_PADDING, SIZES, BakeChoices
from velvet_moth.core.exporting.choices import Choices
from velvet_moth.core.exporting.package import NAMES, SIDES, stem
from velvet_moth.core.exporting.shapes import SHAPES
from velvet_moth.core.exporting.ways import WAYS
from velvet_moth.core.language.dialects import DIALECTS
from velvet_moth.core.language.types import PORT_TYPES
from velvet_moth.core.pictures.formats import FORMATS, WRITABLE
from velvet_moth.store import graphs, projects
from velvet_moth.web.api.catalogue import described
from velvet_moth.web.database import db
from velvet_moth.web.pages.stage_settings import settings_for_stage
from velvet_moth.web.plain_json import embedded

page = Blueprint("export_page", __name__)


def _presented(graph: Graph) -> dict[str, Any]:
    """What the scripts of a stage with sliders need to know of the core, for one graph."""
    used = {node.type for node in graph.nodes.values()} & CATALOGUE.keys()
    return {
        **settings_for_stage(),
        "nodes": {key: described(CATALOGUE[key]) for key in sorted(used)},
        "stops": {t.name: t.stop for t in PORT_TYPES.values() if t.stop},
    }


@page.get("/graphs/<int:key>/export")
def show(key: int) -> str:
    kept = graphs.load(db(), key)
    bake = BakeChoices()
    choices = {
        "as": next(iter(WAYS)),
        **{key: value or "" for key, value in asdict(Choices()).items()},
        "textures": "png",
        "most": "0",
        "names": NAMES,
        "mesh": "",
        "size": str(bake.size),
        "padding": str(bake.padding),
        "moment": "",
        "variants": "yes",
    }
    return render_template(
        "export.html",
        kept=kept,
        project=projects.first(db()),
        settings=embedded({"graph": key, "choices": choices, "presented": _presented(kept.graph)}),
        stem=stem(kept.graph),
        ways=WAYS,
        languages=DIALECTS,
        shapes=SHAPES,
        formats={key: FORMATS[key] for key in WRITABLE},
        sizes=SIZES,
        sides=SIDES,
        most_padding=MOST_PADDING,
    )
