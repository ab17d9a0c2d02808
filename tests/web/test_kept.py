"""What the application keeps between starts."""

import unittest
from pathlib import Path
from tempfile import TemporaryDirectory
from unittest import mock

from velvet_moth.web import kept
from velvet_moth.web.kept import Kept


class Keeping(unittest.TestCase):
    def setUp(self) -> None:
        found = TemporaryDirectory()
        self.addCleanup(found.cleanup)
        self.folder = Path(found.name) / "kept"
        self.asked: list[str] = []

    def get(self, folder: Path | None, name: str = "a.png", version: str = "one") -> bytes:
        def make() -> bytes:
            self.asked.append(name)
            return f"{name} of {version}".encode()

        with mock.patch.object(kept, "_version", lambda: version):
            return Kept(folder).get(name, make)

    def test_a_file_is_made_once_for_each_version(self) -> None:
        for _ in range(2):
            self.assertEqual(self.get(self.folder), b"a.png of one")
            self.assertEqual(self.get(self.folder, "b.png"), b"b.png of one")
        self.assertEqual(self.asked, ["a.png", "b.png"])
        self.assertEqual(self.get(self.folder, version="two"), b"a.png of two")
        left = sorted(str(path.relative_to(self.folder)) for path in self.folder.rglob("*.png"))
        self.assertEqual(left, ["two/a.png"], "what no version asks for goes")

    def test_without_a_folder_it_is_made_each_time(self) -> None:
        self.get(None)
        self.get(None)
        self.assertEqual(len(self.asked), 2)

    def test_a_folder_of_no_use_costs_no_answer(self) -> None:
        self.folder.write_text("a file where the folder should be")
        with self.assertLogs(kept.log) as told:
            self.assertEqual(self.get(self.folder), b"a.png of one")
        self.assertIn("a.png", told.output[0])

    def test_every_file_of_the_core_tells_versions_apart(self) -> None:
        before = kept._version.__wrapped__()
        with TemporaryDirectory() as copy:
            for path in kept.CORE.rglob("*.py"):
                place = Path(copy) / path.relative_to(kept.CORE)
                place.parent.mkdir(parents=True, exist_ok=True)
                place.write_bytes(path.read_bytes())
            with mock.patch.object(kept, "CORE", Path(copy)):
                self.assertEqual(kept._version.__wrapped__(), before, "where it lies does not matter")
                changed = Path(copy) / "tracing" / "rays.py"
                changed.write_text(changed.read_text() + "\n")
                self.assertNotEqual(kept._version.__wrapped__(), before)
