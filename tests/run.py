"""Runs the tests and counts: python -m tests.run [names]. Two processes side by side share them."""

import subprocess
import sys
import threading
import time
import unittest
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
_PAGES = sorted(f"tests.browser.{path.stem}" for path in (ROOT / "tests/browser").glob("test_*.py"))
# What needs no browser is quickly done: that side takes the smaller half of the pages too.
SIDES = (
    ("tests.parity", *_PAGES[len(_PAGES) // 2 :]),
    ("tests.core", "tests.store", "tests.web", "tests.checks", *_PAGES[: len(_PAGES) // 2]),
)


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


def _of_side(side: tuple[str, ...], names: list[str]) -> list[str]:
    """What of the names asked for this side runs: all that is its own, where none are given."""
    inside = [name for name in names if name.startswith(side)]
    return [part for part in side if not names or part.startswith(tuple(names))] + [n for n in inside if n not in side]


def _told(process: subprocess.Popen[str], lines: list[str]) -> None:
    """Prints what a side says as it says it, and keeps it."""
    assert process.stdout
    for line in process.stdout:
        print(line, end="", flush=True)
        lines.append(line)


def main(names: list[str]) -> int:
    """All sides at once; the last line is the sum."""
    started = time.monotonic()
    sides = [_of_side(side, names) for side in SIDES]
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
    said: list[list[str]] = [[] for _ in running]
    readers = [threading.Thread(target=_told, args=pair) for pair in zip(running, said, strict=True)]
    for reader in readers:
        reader.start()
    for reader in readers:
        reader.join()
    passed = failed = 0
    for process, lines in zip(running, said, strict=True):
        process.wait()
        counts = [line.split() for line in lines if line.startswith("counts ")]
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
