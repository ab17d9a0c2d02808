"""Throws at the scene of a graph, by its rule of placing."""

from typing import Any

from flask import Blueprint, Response

from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.emitting.spurting import sources_of
from velvet_moth.core.render.tracing.scene import Scene
from velvet_moth.core.throwing.placing import Splash, aimed, thrown
from velvet_moth.core.throwing.rule import PlacingRule, rule_from_json, rule_to_json
from velvet_moth.core.throwing.surroundings import Surroundings, surroundings_of
from velvet_moth.store import graphs, jobs, judgements, rules
from velvet_moth.store.graphs import StoredGraph
from velvet_moth.web.api.contract import sends, takes
from velvet_moth.web.api.job_answers import JobState
from velvet_moth.web.api.jobs import job_state
from velvet_moth.web.api.rule_answers import JudgementState, Splashes, SplashState
from velvet_moth.web.api.schemas import JudgeRequest, ThrowRequest
from velvet_moth.web.api.state import sessions
from velvet_moth.web.database import db, release

api = Blueprint("throwing", __name__, url_prefix="/api")


def _around(kept: StoredGraph) -> Surroundings:
    scene = Scene.of_graph(kept.graph, sessions().sources.meshes(kept.mesh)(kept.graph.mesh))
    found = surroundings_of(kept.graph.backdrop, scene.mesh if kept.graph.backdrop else None)
    if found is None:
        raise OperationRefused(
            "There is nothing to throw at.", kept.graph.title, "Choose what lies behind, or stand the graph on a mesh."
        )
    return found


def _rule(kept: StoredGraph, sent: Any) -> PlacingRule:
    return rules.in_use(db(), kept.graph.rule) if sent is None else rule_from_json(sent, "rule")


def splash_state(splash: Splash) -> SplashState:
    """What came of a throw, for the page."""
    return {
        "throw": splash.throw,
        "decals": list(splash.decals),
        "sources": list(sources_of(splash.decals)),
        "made": list(splash.made),
        "seen": list(splash.seen),
        "words": list(splash.words),
    }


@api.post("/graphs/<int:key>/throws")
@takes(body=ThrowRequest)
def throw(key: int, asked: ThrowRequest) -> Splashes:
    """Where throws land: those that a hand aims, then those that are known. Nothing is kept."""
    kept = graphs.load(db(), key)
    rule = _rule(kept, asked.rule)
    around = _around(kept)
    release()
    throws = [*(aimed(around, aim) for aim in asked.aims), *asked.throws]
    return {"splashes": [splash_state(thrown(around, rule, one)) for one in throws]}


@api.post("/graphs/<int:key>/judgements")
@takes(body=JudgeRequest)
def judge(key: int, asked: JudgeRequest) -> JobState:
    """Has many throws judged; the job's subject is the judgement once it is done."""
    kept = graphs.load(db(), key)
    _around(kept)
    arguments = asked.model_dump(mode="json", include={"count", "seed", "variant", "camera"})
    arguments["rule"] = rule_to_json(_rule(kept, asked.rule))
    return job_state(jobs.begin(db(), "judge", f"Judging {asked.count} throws", str(key), arguments))


@api.get("/judgements/<key>")
@takes()
def judgement(key: str) -> JudgementState:
    """What many throws have shown."""
    row = judgements.load(db(), key)
    found: Any = {"id": row.id, **row.found}
    return found  # type: ignore[no-any-return] # kept as it was made


@api.get("/judgements/<key>/sheet.png")
@sends("image/png")
def sheet(key: str) -> Response:
    """The outlines of those throws, row by row from the upper left."""
    return Response(judgements.load(db(), key).sheet, mimetype="image/png")
