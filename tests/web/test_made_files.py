"""What the application keeps between starts."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from velvet_moth.core.base import program
from velvet_moth.web import made_files
from velvet_moth.web.made_files import MadeFiles


class Keeping(unittest.TestCase):
    def setUp(self) -> None:
        found = TemporaryDirectory()
        self.addCleanup(found.cleanup)
        self.folder = Path(found.name) / "made"
        self.asked: list[str] = []

    @staticmethod
    def of(name: str, version: str = "1" * 16) -> bytes:
        return f"{name} of {version}".encode()

    def get(self, folder: Path | None, name: str = "a.png", version: str = "1" * 16) -> bytes:
        def make() -> bytes:
            self.asked.append(name)
            return self.of(name, version)

        with mock.patch.object(made_files, "program", lambda: version):
            return MadeFiles(folder).get(name, make)

    def test_a_file_is_made_once_for_each_version(self) -> None:
        for _ in range(2):
            self.assertEqual(self.get(self.folder), self.of("a.png"))
            self.assertEqual(self.get(self.folder, "b.png"), self.of("b.png"))
        self.assertEqual(self.asked, ["a.png", "b.png"])
        (self.folder / "letters").mkdir()
        (self.folder / "letters" / "mine.png").write_bytes(b"not ours")
        self.assertEqual(self.get(self.folder, version="2" * 16), self.of("a.png", "2" * 16))
        left = sorted(str(path.relative_to(self.folder)) for path in self.folder.rglob("*.png"))
        self.assertEqual(left, ["2222222222222222/a.png", "letters/mine.png"], "only what another version made goes")

    def test_without_a_folder_it_is_made_each_time(self) -> None:
        self.get(None)
        self.get(None)
        self.assertEqual(len(self.asked), 2)

    def test_a_folder_of_no_use_costs_no_answer(self) -> None:
        self.folder.write_text("a file where the folder should be")
        with self.assertLogs(made_files.log) as told:
            self.assertEqual(self.get(self.folder), self.of("a.png"))
        self.assertIn("a.png", told.output[0])

    def test_every_file_of_the_core_tells_versions_apart(self) -> None:
        before = program.program()
        with TemporaryDirectory() as copy:
            for path in program.CORE.rglob("*.py"):
                place = Path(copy) / path.relative_to(program.CORE)
                place.parent.mkdir(parents=True, exist_ok=True)
                place.write_bytes(path.read_bytes())
            with mock.patch.object(program, "CORE", Path(copy)):
                self.assertEqual(program.program.__wrapped__(), before, "where it lies does not matter")
                changed = Path(copy) / "render" / "tracing" / "rays.py"
                changed.write_text(changed.read_text() + "\n")
                self.assertNotEqual(program.program.__wrapped__(), before)
