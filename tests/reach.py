"""Which tests a change can reach, by imports: what ``./moth test --changed`` runs."""

import subprocess
from collections.abc import Iterable

import grimp

from tooling.places import ROOT

PACKAGES = ("velvet_moth", "tests", "tooling")
# What is started as a process is reached without an import.
STARTED = (
    ("tests.support.live", "velvet_moth.web.serve"),
    ("tests.checks.test_start", "velvet_moth.web.serve"),
    ("tests.web.test_crashes", "velvet_moth.web.serve"),
)
# Files that no module imports, and the module that stands for them; the first match holds.
SHOWN = (
    ("velvet_moth/web/static/", "tests.support.browser"),
    ("velvet_moth/web/styles/", "tests.support.browser"),
    ("velvet_moth/web/templates/", "velvet_moth.web.app"),
    ("velvet_moth/store/migrations/", "velvet_moth.store.database"),
    ("tests/parity/", "tests.support.gpu"),
    ("tests/browser/", "tests.browser.bench_page"),
)
# They hold for every change: lint, types, the order of imports.
ALWAYS = "tests.checks.test_checks"


def changed(since: str) -> list[str]:
    """Files that differ from a commit, those that are not kept yet too, from the project's root."""
    commands = (["diff", "--name-only", since], ["ls-files", "--others", "--exclude-standard"])
    found = [subprocess.run(["git", *c], cwd=ROOT, capture_output=True, text=True, check=True) for c in commands]
    return [line for done in found for line in done.stdout.splitlines()]


def reached(files: Iterable[str]) -> list[str]:
    """The test modules that a change of ``files`` can reach; every test where that cannot be known."""
    graph = grimp.build_graph(*PACKAGES)
    for importer, imported in STARTED:
        graph.add_import(importer=importer, imported=imported)
    found = {ALWAYS}
    for file in files:
        if file.endswith(".md") or file.startswith(("docs/", "bench/", "licences/")):
            continue
        module = file.removesuffix(".py").removesuffix("/__init__").replace("/", ".") if file.endswith(".py") else ""
        module = module or next((stands for start, stands in SHOWN if file.startswith(start)), "")
        # Settings, packages and files that are gone may matter to anything.
        if module not in graph.modules:
            return []
        found |= {module, *graph.find_downstream_modules(module)}
    return sorted(m for m in found if m.rpartition(".")[2].startswith("test_"))
