"""The node reference: every node of the catalogue with its picture, and one page for each."""

from flask import Blueprint, Response, render_template, request

from velvet_moth.core.catalogue.ports import Input
from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType
from velvet_moth.core.catalogue.search import search
from velvet_moth.core.language.interval import Interval
from velvet_moth.core.workbench.examples import example_picture, facts
from velvet_moth.store import projects
from velvet_moth.store.errors import NotFound
from velvet_moth.web.database import db
from velvet_moth.web.made_files import made_files

page = Blueprint("nodes_page", __name__, url_prefix="/nodes")


def _node(key: str) -> NodeType:
    found = CATALOGUE.get(key)
    if found is None or found.hidden:
        raise NotFound("There is no node of that name.", f"node {key[:40]}", "Choose one from the node reference.")
    return found


def shown_default(port: Input) -> str:
    """What an unwired input carries, as a reader takes it in."""
    if port.source:
        return f"the form's {port.source.replace('_', ' ')}"
    if port.type.stop:
        return f"{len(port.default) // port.type.stop} stops"
    if port.type.name == "bool":
        return "yes" if port.default == (1.0,) else "no"
    return " ".join(f"{c:g}" for c in port.default) or ("flat" if port.missing == "flat" else "none")


def shown_interval(found: Interval | None) -> str:
    if found is None:
        return ""
    low, high = (f"{c:.3g}".replace("-", "−").replace("inf", "∞") for c in (found.low, found.high))
    return low if low == high else f"{low} … {high}"


@page.get("")
def listed() -> str:
    query = request.args.get("q", "")[:80]
    hits = search(query)
    groups: dict[str, list[tuple[NodeType, str]]] = {}
    for hit in hits:
        groups.setdefault(hit.node.group if not query.strip() else "Found", []).append((hit.node, hit.why))
    return render_template("nodes.html", groups=groups, query=query, count=len(hits), project=projects.first(db()))


@page.get("/<key>")
def show(key: str) -> str:
    kind = _node(key)
    proved, cost = facts(key)
    return render_template(
        "node.html",
        kind=kind,
        facts=proved,
        cost=cost,
        neighbours=[CATALOGUE[k] for k in kind.help.see],
        shown_default=shown_default,
        shown_interval=shown_interval,
        project=projects.first(db()),
    )


@page.get("/<key>/picture.png")
def picture(key: str) -> Response:
    _node(key)
    data = made_files().get(f"{key}.png", lambda: example_picture(key))
    return Response(data, mimetype="image/png", headers={"Cache-Control": "private, max-age=3600"})
