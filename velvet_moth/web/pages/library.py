"""The library: the project's graphs as pictures, its textures, and ways to begin."""

from flask import Blueprint, render_template

from velvet_moth.demo.starters import STARTERS
from velvet_moth.store import graphs, projects, textures
from velvet_moth.web.database import db

page = Blueprint("library", __name__)


@page.get("/")
def show() -> str:
    project = projects.first(db())
    return render_template(
        "library.html",
        project=project,
        graphs=graphs.listed(db(), project.id),
        motifs=graphs.listed(db(), project.id, motifs=True),
        textures=textures.listed(db(), project.id),
        starters=STARTERS,
    )
