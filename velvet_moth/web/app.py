"""The application factory."""

import threading
from pathlib import Path

from flask import Flask
from sqlalchemy import Engine

import velvet_moth.core.nodes  # noqa: F401 - fills the catalogue
from velvet_moth.core.base.apart import Apart
from velvet_moth.core.lighting.environment import environment_map
from velvet_moth.store.database import plain_address
from velvet_moth.store.sources import Sources
from velvet_moth.web import database, errors, security
from velvet_moth.web.api import (
    analysis,
    baked,
    block_files,
    block_views,
    blocks,
    brush,
    caches,
    description,
    emitters,
    events,
    exports,
    films,
    graphs,
    history,
    jobs,
    mesh_stacks,
    mesh_views,
    meshes,
    motifs,
    nodes,
    recipes,
    rules,
    stage,
    textures,
    throwing,
    tracks,
)
from velvet_moth.web.assets import Assets, assets
from velvet_moth.web.coming_films import ComingFilms
from velvet_moth.web.made_files import MadeFiles
from velvet_moth.web.news import Newsroom
from velvet_moth.web.pages import blocks as block_pages
from velvet_moth.web.pages import export as export_pages
from velvet_moth.web.pages import library, workbench
from velvet_moth.web.pages import meshes as mesh_pages
from velvet_moth.web.pages import nodes as node_pages
from velvet_moth.web.pages import textures as texture_pages
from velvet_moth.web.plain_json import PlainJson
from velvet_moth.web.sessions import GraphSessions


def create_app(engine: Engine, secret: str, made: Path | None = None) -> Flask:
    """The whole application on a migrated database; ``secret`` signs its cookies, ``made`` is a folder for made files."""
    app = Flask(__name__, static_folder=None)
    app.config["SECRET_KEY"] = secret
    app.json = PlainJson(app)
    shipped = Assets()
    app.extensions["graph_sessions"] = GraphSessions(Sources(engine))
    app.extensions["made_files"] = MadeFiles(made)
    app.extensions["apart"] = Apart()
    app.extensions["coming_films"] = ComingFilms()
    app.extensions["newsroom"] = Newsroom(plain_address(engine))
    app.jinja_env.globals["shipped"] = shipped
    app.jinja_env.trim_blocks = app.jinja_env.lstrip_blocks = True
    security.install(app, shipped)
    database.install(app, engine)
    errors.install(app)
    for blueprint in (
        assets,
        library.page,
        workbench.page,
        export_pages.page,
        node_pages.page,
        texture_pages.page,
        mesh_pages.page,
        block_pages.page,
        graphs.api,
        motifs.api,
        analysis.api,
        history.api,
        exports.api,
        emitters.api,
        events.api,
        textures.api,
        meshes.api,
        baked.api,
        blocks.api,
        block_views.api,
        block_files.api,
        mesh_views.api,
        recipes.api,
        rules.api,
        throwing.api,
        mesh_stacks.api,
        brush.api,
        jobs.api,
        films.api,
        stage.api,
        tracks.api,
        nodes.api,
        caches.api,
        description.api,
    ):
        app.register_blueprint(blueprint)
    # Half a second of work that the first page would otherwise wait for.
    threading.Thread(target=environment_map, daemon=True).start()
    return app
