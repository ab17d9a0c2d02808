"""Calls of the JSON interface drawn from its own description, for tests and benches."""

import os
import time
from collections import Counter
from dataclasses import dataclass, field
from typing import Any

import schemathesis
from flask import Flask
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st

# Ids that no row has are drawn nearly always: a few that there are must be among them.
LIKELY_IDS = st.integers(1, 12)


@dataclass
class Fuzz:
    """What came of the calls: how many of each address and status, the slowest, and what must not have happened."""

    answers: Counter[tuple[str, int]] = field(default_factory=Counter)
    slowest: tuple[float, str] = (0.0, "")
    wrong: list[str] = field(default_factory=list)

    def note(self, operation: str, status: int, seconds: float, text: str) -> None:
        self.answers[operation, status] += 1
        self.slowest = max(self.slowest, (seconds, operation))
        if status >= 500 and status != 503:
            self.wrong.append(f"{operation} answered {status}: {text[:200]}")


def fuzz(app: Flask, times: int, part: slice = slice(None)) -> Fuzz:
    """Calls every address of a ``part`` of them so many ``times``, as its description allows and not."""
    found = Fuzz()
    schema = schemathesis.openapi.from_wsgi("/api", app)
    every: Any = schema.get_all_operations()
    keys = st.sampled_from(_small_keys(app))
    for result in [*every][part]:
        _call_often(result.ok(), times, found, keys)
    return found


def _small_keys(app: Flask) -> list[str]:
    """Ids that are texts, of something that is there and quickly worked on."""
    client = app.test_client()
    meshes = client.get("/api/meshes").get_json()["meshes"]
    textures = client.get("/api/textures").get_json()["textures"]
    return [min(meshes, key=lambda mesh: mesh["vertices"])["id"], min(textures, key=lambda one: one["width"])["id"]]


def _call_often(operation: Any, times: int, found: Fuzz, keys: st.SearchStrategy[str]) -> None:
    name = f"{operation.method.upper()} {operation.path}"

    @settings(
        max_examples=times,
        deadline=None,
        database=None,
        # The same calls each time, unless more of them are asked for.
        derandomize="MOTH_CALLS" not in os.environ,
        phases=[Phase.generate],
        suppress_health_check=list(HealthCheck),
    )
    @given(_cases(operation), st.data())
    def call(case: Any, data: Any) -> None:
        for key in ("key", "version"):
            if isinstance((case.path_parameters or {}).get(key), int) and data.draw(st.booleans()):
                case.path_parameters[key] = data.draw(LIKELY_IDS)
        if isinstance((case.path_parameters or {}).get("key"), str) and data.draw(st.booleans()):
            case.path_parameters["key"] = data.draw(keys)
        started = time.perf_counter()
        answer = case.call()
        found.note(
            name, answer.status_code, time.perf_counter() - started, answer.content[:200].decode(errors="replace")
        )

    call()


def _cases(operation: Any) -> st.SearchStrategy[Any]:
    modes = schemathesis.GenerationMode
    return st.one_of(
        operation.as_strategy(generation_mode=modes.POSITIVE), operation.as_strategy(generation_mode=modes.NEGATIVE)
    )
