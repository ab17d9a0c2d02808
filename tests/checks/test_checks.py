"""Lint, types, format and layering are clean."""

import subprocess
import unittest

from tooling.commands import CHECKS
from tooling.places import ROOT


class Checks(unittest.TestCase):
    def test_all_checks_are_clean(self) -> None:
        for name, command in CHECKS:
            with self.subTest(name):
                done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True)
                self.assertEqual(done.returncode, 0, f"\n{done.stdout}{done.stderr}")

    def test_the_layer_rule_would_catch_a_web_import_in_the_core(self) -> None:
        intruder = ROOT / "velvet_moth/core/intruder_for_a_test.py"
        intruder.write_text('"""Here for a test."""\nimport flask\n')
        try:
            done = subprocess.run([".venv/bin/lint-imports", "--no-cache"], cwd=ROOT, capture_output=True, text=True)
        finally:
            intruder.unlink()
        self.assertNotEqual(done.returncode, 0)
        self.assertIn("The core is pure", done.stdout)
