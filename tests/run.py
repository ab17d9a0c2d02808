"""Runs the tests and counts: python -m tests.run [names] [--changed[=COMMIT]].

A process for each core takes one class after the other, from either end of the list.
"""

import argparse
import os
import re
import subprocess
import sys
import threading
import time
import unittest
from collections import defaultdict
from collections.abc import Iterator, Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

from tests.reach import changed, reached

ROOT = Path(__file__).resolve().parent.parent
# Tells the processes of one run that they share a template of databases.
RUN = "MOTH_TEST_RUN"
# The first and the last job left.
ENDS = (0, -1)
WORKERS = max(2, os.cpu_count() or 2)
# So many of the slowest tests are listed at the end.
SLOWEST = 20
TIMED = re.compile(r"^ok (tests\.\S+) ([\d.]+)s$")
# One process begins with the browser and the other one with the core, until they meet: two browsers at once would often
# wait for one another.
ORDER = ("tests.browser", "tests.parity", "tests.checks", "tests.web", "tests.store", "tests.core")
ONE_AFTER_THE_OTHER = "--jobs-from-input"


class Counted(unittest.TextTestResult):
    """Says each test's outcome and time as it ends."""

    passed = 0

    def startTest(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's name
        self.began = time.monotonic()
        super().startTest(test)

    def addSuccess(self, test: unittest.TestCase) -> None:  # noqa: N802 - unittest's name
        super().addSuccess(test)
        self.passed += 1
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


def run(names: list[str]) -> None:
    """Runs the tests of some names here; ends with a line that counts them."""
    runner: Any = unittest.TextTestRunner
    result: Counted = runner(stream=sys.stdout, resultclass=Counted, verbosity=0).run(_load(names))
    # A test that fails in several of its cases has failed once.
    cases = [getattr(test, "test_case", test) for test, _ in [*result.failures, *result.errors]]
    failed = len({test.id() for test in [*cases, *result.unexpectedSuccesses]})
    print(f"counts {result.passed} {failed}", flush=True)


def _each(suite: unittest.TestSuite) -> Iterator[unittest.TestCase]:
    for part in suite:
        if isinstance(part, unittest.TestSuite):
            yield from _each(part)
        else:
            assert isinstance(part, unittest.TestCase)
            yield part


def _jobs(names: list[str]) -> list[list[str]]:
    """The tests asked for (all, without names), class by class; what cannot be loaded is a job that will say so."""
    jobs: dict[str, list[str]] = defaultdict(list)
    for name in names or ORDER:
        for test in _each(_load([name])):
            if type(test).__module__ == "unittest.loader":
                # Found in a folder, it bears the module's name.
                module = test.id().partition("_FailedTest.")[2]
                jobs[module] = [module if module.startswith("tests.") else name]
            else:
                jobs[test.id().rpartition(".")[0]].append(test.id())
    places = {folder: place for place, folder in enumerate(ORDER)}
    order = sorted(jobs, key=lambda key: places.get(".".join(key.split(".")[:2]), len(ORDER)))
    return [jobs[key] for key in order]


class Worker(threading.Thread):
    """A process that is given jobs as long as there are any, from one end of the list."""

    def __init__(self, jobs: list[list[str]], end: int, lock: threading.Lock) -> None:
        super().__init__()
        self.jobs, self.end, self.lock = jobs, end, lock
        self.passed = self.failed = 0
        self.times: dict[str, float] = {}

    def run(self) -> None:
        command = [sys.executable, "-m", "tests.run", ONE_AFTER_THE_OTHER]
        environment = {**os.environ, RUN: str(os.getpid())}
        pipes: Any = {"stdin": subprocess.PIPE, "stdout": subprocess.PIPE, "stderr": subprocess.STDOUT}
        with subprocess.Popen(command, cwd=ROOT, env=environment, text=True, **pipes) as process:
            assert process.stdin
            while job := self._next():
                if not self._done(process, job):
                    self.failed += len(job)
                    print(f"a process ended in the middle of {job[0]}", flush=True)
                    break
            with suppress(BrokenPipeError):
                process.stdin.close()

    def _next(self) -> list[str] | None:
        with self.lock:
            return self.jobs.pop(self.end) if self.jobs else None

    def _done(self, process: "subprocess.Popen[str]", job: list[str]) -> bool:
        """Gives a job and prints what the process says of it; whether it came to its end."""
        assert process.stdin and process.stdout
        with suppress(BrokenPipeError):
            process.stdin.write(" ".join(job) + "\n")
            process.stdin.flush()
        for line in process.stdout:
            if line.startswith("counts "):
                passed, failed = (int(count) for count in line.split()[1:])
                self.passed, self.failed = self.passed + passed, self.failed + failed
                return True
            if timed := TIMED.match(line):
                self.times[timed[1]] = float(timed[2])
            print(line, end="", flush=True)
        return False


def _say_times(times: Mapping[str, float]) -> None:
    """The slowest tests, and the sum of each kind: the folder a test stands in."""
    kinds: dict[str, float] = defaultdict(float)
    for name, seconds in times.items():
        kinds[name.split(".")[1]] += seconds
    print(f"the {SLOWEST} slowest tests, in seconds:")
    for name, seconds in sorted(times.items(), key=lambda item: -item[1])[:SLOWEST]:
        print(f"{seconds:7.1f} {name}")
    sums = ", ".join(f"{kind} {seconds:.0f}" for kind, seconds in sorted(kinds.items(), key=lambda item: -item[1]))
    print(f"seconds by kind: {sums}")


def main(names: list[str]) -> int:
    """All tests of some names; the last line is the sum."""
    started = time.monotonic()
    jobs, lock = _jobs(names), threading.Lock()
    workers = [Worker(jobs, ENDS[number % 2], lock) for number in range(min(WORKERS, len(jobs)))]
    for worker in workers:
        worker.start()
    for worker in workers:
        worker.join()
        print(f"a process was done after {time.monotonic() - started:.0f} s")
    _say_times({name: seconds for worker in workers for name, seconds in worker.times.items()})
    passed, failed = sum(w.passed for w in workers), sum(w.failed for w in workers)
    # Both processes may have ended before all was done.
    failed += sum(len(job) for job in jobs)
    print(f"{passed} passed, {failed} failed", flush=True)
    return 1 if failed or not passed else 0


def _asked(arguments: list[str]) -> list[str]:
    """The names given, or those that what has changed since a commit can reach."""
    parser = argparse.ArgumentParser(prog="./moth test")
    parser.add_argument("names", nargs="*")
    parser.add_argument("--changed", nargs="?", const="HEAD", default="", metavar="COMMIT")
    options = parser.parse_args(arguments)
    return reached(changed(options.changed)) if options.changed else list(options.names)


if __name__ == "__main__":
    if sys.argv[1:] == [ONE_AFTER_THE_OTHER]:
        for line in sys.stdin:
            run(line.split())
    else:
        sys.exit(main(_asked(sys.argv[1:])))
