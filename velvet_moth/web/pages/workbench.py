"""The workbench of one graph."""

from dataclasses import dataclass
from functools import cache

from flask import Blueprint, redirect, render_template, request, url_for
from werkzeug.wrappers import Response

from velvet_moth.core.baking.step import MESHES
from velvet_moth.core.base.ways import EASINGS, WAYS
from velvet_moth.core.catalogue.registry import CATALOGUE
from velvet_moth.core.document.marks import TINTS
from velvet_moth.core.document.parts import PARTS, fit
from velvet_moth.core.document.scene import MOST_DECALS
from velvet_moth.core.document.tracks.targets import DECAL_PARTS, SCENE_TARGETS
from velvet_moth.core.emitting.emitter import FACINGS, MOST_NUMBERS, PATHS
from velvet_moth.core.forms import FORMS
from velvet_moth.core.language.types import PORT_TYPES
from velvet_moth.core.lighting.channels import CHANNELS
from velvet_moth.core.lighting.kinds import KINDS
from velvet_moth.core.lighting.rigs import RIGS
from velvet_moth.core.lighting.spread import ENDINGS
from velvet_moth.core.nodes.surfaces import BACK
from velvet_moth.core.render.looks import LOOKS
from velvet_moth.core.scenery.backdrops import BACKDROPS
from velvet_moth.core.throwing.curve import BETWEEN
from velvet_moth.store import graphs, listing, projects
from velvet_moth.web.api.catalogue import described
from velvet_moth.web.api.rules import described_parts
from velvet_moth.web.api.stacks import described_step
from velvet_moth.web.database import db
from velvet_moth.web.pages.settings import PageSettings
from velvet_moth.web.pages.stage_settings import settings_for_stage
from velvet_moth.web.plain_json import embedded

page = Blueprint("workbench", __name__)

# Motifs in motifs that a way in is remembered through.
MOST_NESTED = 12


@cache
def settings_of_page() -> str:
    """What the scripts need to know of the core, as JSON: the catalogue, which types fit, first view."""
    found: PageSettings = {
        "nodes": {key: described(node) for key, node in CATALOGUE.items()},
        "fits": {a.name: {b.name: fit(a, b) for b in PORT_TYPES.values()} for a in PORT_TYPES.values()},
        "type_words": {t.name: t.words for t in PORT_TYPES.values()},
        "strands": {t.name: t.strands for t in PORT_TYPES.values()},
        "parts": {
            p.key: {"words": p.words, "given": [t.name for t in p.given], "made": p.made.name} for p in PARTS.values()
        },
        "tints": list(TINTS),
        "stops": {t.name: t.stop for t in PORT_TYPES.values() if t.stop},
        "asked_by_kind": {
            key: [*([BACK] if kind.has_back else []), *(name for name in CHANNELS if name in kind.wanted)]
            for key, kind in KINDS.items()
        },
        "idle_by_kind": {key: [name for name in CHANNELS if name in kind.idle] for key, kind in KINDS.items()},
        "brush_steps": [
            described_step(step)
            for step in MESHES.steps.values()
            if any(setting.kind == "strokes" for setting in step.settings.values())
        ],
        "ways": {key: {"name": way.name, "words": way.words} for key, way in WAYS.items()},
        "scene_targets": {key: {"name": of.name, "parts": {**of.parts}} for key, of in SCENE_TARGETS.items()},
        "decal_parts": {key: {"name": of.name, "parts": {**of.parts}} for key, of in DECAL_PARTS.items()},
        "rule_parts": described_parts(),
        "curve_ways": {key: {"name": way.name, "words": way.words} for key, way in BETWEEN.items()},
        "easings": list(EASINGS),
        "decal_endings": {key: name for key, (name, *_) in ENDINGS.items()},
        "most_decals": MOST_DECALS,
        "emitter_paths": {**PATHS},
        "emitter_facings": {**FACINGS},
        "most_instance_numbers": MOST_NUMBERS,
        **settings_for_stage(),
    }
    return embedded(found)


@page.get("/graphs/<int:key>")
def show(key: int) -> str:
    kept = graphs.load(db(), key)
    project = projects.by_id(db(), kept.project_id)
    users = listing.used_by(db(), kept.project_id, kept.motif) if kept.motif else []
    way = way_in(request.args.get("within", ""))
    staged = graphs.load(db(), way[0].key) if way else kept
    return render_template(
        "workbench.html",
        kept=kept,
        project=project,
        settings=settings_of_page(),
        forms=dict(sorted(FORMS.items(), key=lambda item: item[1].name)),
        rigs=RIGS,
        backdrops=BACKDROPS,
        kinds={key: kind.name for key, kind in KINDS.items()},
        looks=LOOKS,
        staged=staged.graph,
        users=users,
        way=way,
    )


@dataclass(frozen=True)
class Outer:
    """A graph on the way into a motif that is edited in its place."""

    key: int
    title: str
    href: str


def way_in(text: str) -> list[Outer]:
    """The graphs that led to a motif, the outermost first, from their ids as "12,7"."""
    keys = [int(part) for part in text.split(",")[:MOST_NESTED] if part.isascii() and part.isdigit()]
    found = []
    for at, key in enumerate(keys):
        before = ",".join(map(str, keys[:at]))
        href = url_for("workbench.show", key=key, within=before or None)
        found.append(Outer(key, graphs.load(db(), key).graph.title, href))
    return found


@page.get("/motifs/<type_>")
def show_motif(type_: str) -> Response:
    """The page of a motif by the type of its uses."""
    key = graphs.motif_id(db(), projects.first(db()).id, type_)
    return redirect(url_for("workbench.show", key=key, within=request.args.get("within")))
