"""./moth up: two instances beside each other, an end by signal, a start after a crash. Needs ./moth test's set-up."""

import contextlib
import io
import os
import shutil
import signal
import subprocess
import tempfile
import time
import unittest
import unittest.mock
import urllib.request
from pathlib import Path

from tooling.places import IS_ROOT, ROOT, STAMPS
from tooling.postgres import Cluster, is_alive
from tooling.steps import PROGRAMS, Step, StepFailed, ensure_packages, run


class Starting(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp(dir="/var/lib" if IS_ROOT else None)) / "cluster"
        self.addCleanup(shutil.rmtree, self.folder.parent, True)
        os.chmod(self.folder.parent, 0o755)
        self.cluster = Cluster(self.folder)
        self.addCleanup(lambda: self.folder.exists() and self.cluster.stop())

    def start(self) -> tuple[subprocess.Popen, str]:
        """A running ./moth up and its address."""
        process = subprocess.Popen(
            ["./moth", "up"],
            cwd=ROOT,
            env={**os.environ, "MOTH_DATA": str(self.folder)},
            stdout=subprocess.PIPE,
            stderr=subprocess.STDOUT,
            text=True,
        )
        self.addCleanup(lambda: process.poll() is None and process.kill())
        assert process.stdout
        self.addCleanup(process.stdout.close)
        said = []
        for line in process.stdout:
            said.append(line)
            if " is at http" in line:
                return process, line.split(" is at ")[1].strip()
        raise AssertionError("".join(said))

    def answers(self, url: str) -> bool:
        try:
            with urllib.request.urlopen(url, timeout=10) as page:
                return b"Heron Lock" in page.read()
        except OSError:
            return False

    def until(self, what: str, condition: object, patience: float = 20) -> None:
        deadline = time.monotonic() + patience
        while not condition():  # type: ignore[operator]
            self.assertLess(time.monotonic(), deadline, what)
            time.sleep(0.05)

    def test_side_by_side_signals_and_a_crash(self) -> None:
        first, first_url = self.start()
        second, second_url = self.start()
        self.assertNotEqual(first_url, second_url)
        self.assertTrue(self.answers(first_url) and self.answers(second_url))
        first.send_signal(signal.SIGINT)
        self.assertEqual(first.wait(20), 0)
        self.assertFalse(self.answers(first_url))
        self.assertTrue(self.answers(second_url), "the second keeps the database")
        second.kill()
        second.wait()
        self.until("the crashed start's server ended by itself", lambda: not self.answers(second_url))
        third, third_url = self.start()
        self.assertTrue(self.answers(third_url))
        postmaster = int((self.folder / "data/postmaster.pid").read_text().splitlines()[0])
        third.terminate()
        self.assertEqual(third.wait(20), 0)
        self.until("the database ended too", lambda: not is_alive(postmaster))

    def test_a_stale_lock_file_is_cleared(self) -> None:
        with self.cluster.serving():
            pass
        pid_file = self.folder / "data/postmaster.pid"
        pid_file.write_text("999999\n/nowhere\n0\n1\n\n127.0.0.1\n")
        with self.cluster.serving() as address:
            self.assertIn("127.0.0.1", address)
        self.assertIsNone(self.cluster.running_port())


class Preparing(unittest.TestCase):
    def test_a_step_runs_once_and_again_when_an_input_changes(self) -> None:
        runs = []
        with tempfile.TemporaryDirectory(dir=ROOT / ".moth") as folder:
            source, made = Path(folder) / "input", Path(folder) / "made"
            source.write_text("one")
            pattern = str(source.relative_to(ROOT))
            step = Step("step for a test", [pattern], [made], lambda: (runs.append(1), made.touch()))
            self.addCleanup((STAMPS / step.name).unlink, True)
            with contextlib.redirect_stdout(io.StringIO()):
                for _ in range(2):
                    step.ensure()
                self.assertEqual(len(runs), 1)
                source.write_text("two")
                step.ensure()
                made.unlink()
                step.ensure()
        self.assertEqual(len(runs), 3)

    def test_a_failed_command_shows_the_end_of_what_it_said(self) -> None:
        with self.assertRaisesRegex(StepFailed, "no such option here"):
            run(["sh", "-c", "echo no such option here; exit 3"])

    def test_without_root_the_exact_line_is_printed(self) -> None:
        with (
            unittest.mock.patch("tooling.steps.IS_ROOT", False),
            unittest.mock.patch.dict(PROGRAMS, {"nonesuch": "nonesuch"}),
            self.assertRaisesRegex(StepFailed, "sudo apt-get install -y --no-install-recommends nonesuch"),
        ):
            ensure_packages(["nonesuch"])
