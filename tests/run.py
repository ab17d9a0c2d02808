"""Runs the tests and counts: python -m tests.run [names]. Two processes side by side, one of them with the browser."""

import subprocess
import sys
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SIDES = (("tests.parity", "tests.browser"), ("tests.core", "tests.store", "tests.web", "tests.checks"))


class Counted(unittest.TextTestResult):
    """Says each test's outcome and time as it ends."""

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's name
        self.began = time.monotonic()
        super().startTest(test)

    def addSuccess(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's name
        super().addSuccess(test)
        print(f"ok {test.id()} {time.monotonic() - self.began:.1f}s", flush=True)


def _load(names: list[str]) -> unittest.TestSuite:
    loader = unittest.TestLoader()
    found = unittest.TestSuite()
    for name in names:
        folder = ROOT / name.replace(".", "/")
        if folder.is_dir():
            found.addTests(loader.discover(str(folder), top_level_dir=str(ROOT)))
        else:
            found.addTests(loader.loadTestsFromName(name))
    return found


def run(names: list[str]) -> int:
    result = unittest.TextTestRunner(resultclass=Counted, verbosity=0).run(_load(names))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    print(f"counts {result.testsRun - failed - len(result.skipped)} {failed}", flush=True)
    return failed


def main(names: list[str]) -> int:
    """All sides at once; prints each side's output when it ends and the sum at the very end."""
    started = time.monotonic()
    sides = [[n for n in names or side if n.startswith(side)] for side in SIDES]
    running = [
        subprocess.Popen(
            [sys.executable, "-m", "tests.run", "--side", *side],
            cwd=ROOT,
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        for side in sides
        if side
    ]
    passed = failed = 0
    for process in running:
        output, _ = process.communicate()
        print(output, flush=True)
        counts = [line.split() for line in output.splitlines() if line.startswith("counts ")]
        if counts:
            passed, failed = passed + int(counts[-1][1]), failed + int(counts[-1][2])
        else:
            failed += 1
            print(f"one side ended without counting: exit code {process.returncode}")
    print(f"in {time.monotonic() - started:.0f} s")
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


if __name__ == "__main__":
    arguments = sys.argv[1:]
    sys.exit(run(arguments[1:]) if arguments[:1] == ["--side"] else main(arguments))
