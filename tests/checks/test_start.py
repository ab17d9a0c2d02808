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
from typing import ClassVar

from tooling.places import IS_ROOT, ROOT, STAMPS
from tooling.postgres import Cluster, is_alive
from tooling.steps import PROGRAMS, Step, StepFailed, ensure_packages, run
from velvet_moth.store.database import make_engine


def begin(folder: Path, *options: str) -> subprocess.Popen:
    return subprocess.Popen(
        ["./moth", "up", *options],
        cwd=ROOT,
        env={**os.environ, "MOTH_DATA": str(folder)},
        stdout=subprocess.PIPE,
        stderr=subprocess.STDOUT,
        text=True,
    )


def address_of(process: subprocess.Popen) -> str:
    said = []
    for line in process.stdout or ():
        said.append(line)
        if " is at http" in line:
            return line.split(" is at ")[1].strip()
    raise AssertionError("".join(said))


def new_folder() -> Path:
    """A folder that PostgreSQL's own user may enter; the cluster goes into one of its own below it."""
    made = Path(tempfile.mkdtemp(dir="/var/lib" if IS_ROOT else None))
    os.chmod(made, 0o755)
    return made


class Starting(unittest.TestCase):
    loaded: ClassVar[Path]

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.loaded = new_folder() / "cluster"
        cls.addClassCleanup(shutil.rmtree, cls.loaded.parent, True)
        with begin(cls.loaded) as process:
            address_of(process)
            process.terminate()

    def setUp(self) -> None:
        self.folder = new_folder() / "cluster"
        self.addCleanup(shutil.rmtree, self.folder.parent, True)
        self.cluster = Cluster(self.folder)
        self.addCleanup(lambda: self.folder.exists() and self.cluster.stop())

    def have_the_demo(self) -> None:
        """The demo is there already, so that a start is quick; with its owner, which PostgreSQL insists on."""
        subprocess.run(["cp", "-a", str(self.loaded), str(self.folder)], check=True)

    def begin(self, *options: str) -> subprocess.Popen:
        process = begin(self.folder, *options)
        self.addCleanup(lambda: process.poll() is None and process.kill())
        assert process.stdout
        self.addCleanup(process.stdout.close)
        return process

    def start(self, *options: str) -> tuple[subprocess.Popen, str]:
        """A running ./moth up and its address."""
        process = self.begin(*options)
        return process, address_of(process)

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
        self.have_the_demo()
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

    def test_a_database_that_died_is_found_again_by_everybody(self) -> None:
        self.have_the_demo()
        first, first_url = self.start()
        pid_file = self.folder / "data/postmaster.pid"
        os.kill(int(pid_file.read_text().splitlines()[0]), signal.SIGKILL)
        second, second_url = self.start()
        self.until("both answer again", lambda: self.answers(first_url) and self.answers(second_url))
        # Killed outright, its port is free for the very next start.
        port = second_url.rstrip("/").rsplit(":", 1)[1]
        second.kill()
        second.wait()
        third, _ = self.start("--port", port)
        for process in (third, first):
            process.send_signal(signal.SIGHUP)
            self.assertEqual(process.wait(20), 0)
        self.assertIsNone(self.cluster.running_port(), "a closed terminal ends the database too")

    def test_two_first_starts_at_once_share_one_demo(self) -> None:
        started = [self.begin(), self.begin()]
        for process in started:
            self.assertTrue(self.answers(address_of(process)))
        with self.cluster.serving() as address, make_engine(f"{address}/velvet_moth").connect() as connection:
            self.assertEqual(connection.exec_driver_sql("select count(*) from projects").scalar(), 1)
        for process in started:
            process.terminate()
            process.wait(20)

    def test_a_lost_password_or_a_start_cut_short_costs_nothing(self) -> None:
        with self.cluster.serving() as address, make_engine(f"{address}/postgres").connect() as connection:
            connection.exec_driver_sql("create table kept as select 7 as number")
            connection.commit()
            before = self.cluster.password_file.read_text()
            self.cluster.password_file.unlink()
            with self.assertRaisesRegex(StepFailed, "Stop every other"):
                self.cluster._make()
            self.cluster.password_file.write_text(before)
        self.cluster.password_file.unlink()
        # What an initdb that was killed leaves behind.
        (self.folder / "data.unfinished").mkdir()
        with self.cluster.serving() as address, make_engine(f"{address}/postgres").connect() as connection:
            self.assertEqual(connection.exec_driver_sql("select number from kept").scalar(), 7)
        self.assertNotEqual(self.cluster.password_file.read_text(), before)

    def test_an_initdb_that_is_killed_is_made_again(self) -> None:
        with (
            unittest.mock.patch.object(Cluster, "_run", side_effect=KeyboardInterrupt),
            self.assertRaises(KeyboardInterrupt),
        ):
            self.cluster._make()
        (self.folder / "data.unfinished").mkdir()
        (self.folder / "data.unfinished/PG_VERSION").write_text("15")
        with self.cluster.serving() as address:
            self.assertIn("127.0.0.1", address)

    def test_a_folder_of_somebody_else_is_left_alone(self) -> None:
        theirs = self.folder / "data"
        theirs.mkdir(parents=True)
        (theirs / "thesis.txt").write_text("years of work")
        os.chmod(self.folder, 0o755)
        with self.assertRaisesRegex(StepFailed, "not made by Velvet Moth"), self.cluster.serving():
            pass
        self.assertEqual((theirs / "thesis.txt").read_text(), "years of work")
        self.assertEqual((self.folder.stat().st_uid, self.folder.stat().st_mode & 0o777), (os.getuid(), 0o755))

    def test_wrong_ports_and_folders_are_sentences(self) -> None:
        def said(*options: str, **environment: str) -> str:
            done = subprocess.run(
                ["./moth", "up", *options],
                cwd=ROOT,
                env={**os.environ, **environment},
                capture_output=True,
                text=True,
                timeout=60,
            )
            self.assertNotEqual(done.returncode, 0)
            self.assertNotIn("Traceback", done.stderr)
            return done.stderr

        self.assertIn("use a number from 1 to 65535", said("--port", "70000"))
        self.assertIn("MOTH_DATA", said(MOTH_DATA="/proc/nowhere"))

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
