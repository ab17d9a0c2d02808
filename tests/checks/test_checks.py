"""Lint, types, format and layering are clean."""

import re
import subprocess
import unittest
from collections import defaultdict
from collections.abc import Callable, Sequence
from graphlib import TopologicalSorter
from pathlib import Path

from tooling.commands import CHECKS
from tooling.places import ROOT

# What a script imports from ours, types in comments included.
IMPORTED = re.compile(r"""(?:from|import\()\s*"((?:moth/|\.)[^"]+)\"""")


class Clean(unittest.TestCase):
    """Each check of ``./moth check`` by itself."""

    def check(self, command: Sequence[str]) -> None:
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
        self.assertEqual(done.returncode, 0, f"\n{done.stdout}{done.stderr}")


def _test_of(command: Sequence[str]) -> Callable[[Clean], None]:
    return lambda case: case.check(command)


for _name, _command in CHECKS:
    setattr(Clean, f"test_{_name.replace(' ', '_')}", _test_of(_command))


class Order(unittest.TestCase):
    def test_the_scripts_of_a_folder_import_only_those_below(self) -> None:
        scripts = ROOT / "velvet_moth/web/static/js"
        below: dict[Path, set[Path]] = defaultdict(set)
        for path in scripts.rglob("*.js"):
            for name in IMPORTED.findall(path.read_text()):
                target = scripts / name.removeprefix("moth/") if name.startswith("moth/") else path.parent / name
                if target.resolve().parent != path.parent:
                    below[path.parent].add(target.resolve().parent)
        self.assertGreater(len(below), 10)
        # Raises CycleError with the circle.
        list(TopologicalSorter(below).static_order())

    def test_the_layer_rule_would_catch_a_web_import_in_the_core(self) -> None:
        intruder = ROOT / "velvet_moth/core/intruder_for_a_test.py"
        intruder.write_text('"""Here for a test."""\nimport flask\n')
        try:
            done = subprocess.run([".venv/bin/lint-imports", "--no-cache"], cwd=ROOT, capture_output=True, text=True)
        finally:
            intruder.unlink()
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("The core is pure", done.stdout)
