"""Films as jobs: kept whole, fetched, a texture of the project; nothing stays of one that is cancelled or whose worker is killed."""

import os
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from sqlalchemy import func, select, text, update
from sqlalchemy.orm import Session

from tests.support.databases import StoreCase
from tests.support.workers import Worker
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.pictures.formats import read_picture
from velvet_moth.core.workbench.filming import Film
from velvet_moth.demo.ageing import signal_lantern
from velvet_moth.store import films, graphs, jobs, projects, textures
from velvet_moth.store.database import plain_address
from velvet_moth.store.errors import NotFound
from velvet_moth.store.models import FilmChunkRow, FilmRow
from velvet_moth.work import doing

PATIENCE = 60.0
LONG = Film("mp4", 256, 256, 0, 600, 30)


class Films(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.address = plain_address(self.engine)
        with Session(self.engine) as session, session.begin():
            self.graph = graphs.create(session, projects.first(session).id, signal_lantern({})).id

    def asked(self, film: Film, name: str = "Lantern") -> int:
        arguments: dict[str, Any] = {"film": films.FILM.dump_python(film, mode="json"), "name": name}
        with Session(self.engine) as session, session.begin():
            return jobs.begin(session, "film", "Film of the lantern", str(self.graph), arguments).id

    def job(self, key: int) -> Any:
        with Session(self.engine) as session:
            return jobs.load(session, key)

    def until(self, words: str, is_so: Callable[[], bool]) -> None:
        end = time.monotonic() + PATIENCE
        while not is_so():
            self.assertLess(time.monotonic(), end, words)
            time.sleep(0.05)

    def kept(self) -> tuple[int, int]:
        """How many films there are, and how many chunks of any."""
        with Session(self.engine) as session:
            count = lambda row: session.scalar(select(func.count()).select_from(row))  # noqa: E731 - asked twice
            return count(FilmRow), count(FilmChunkRow)

    def test_a_sheet_is_kept_fetched_and_becomes_a_texture_that_knows_its_frames(self) -> None:
        key = self.asked(Film("sheet", 32, 24, 0, 6, 3, is_clear=True, columns=3))
        doing.do_job(self.address, key)
        job = self.job(key)
        self.assertEqual((job.state, job.words), ("done", ""))
        with Session(self.engine) as session, session.begin():
            row = films.load(session, job.subject)
            data = b"".join(films.stream(session, row.id))
            self.assertEqual(len(data), row.size)
            self.assertEqual(read_picture(data, "sheet")[0].size, (96, 48))
            self.assertEqual([one.id for one in films.of_graph(session, self.graph)], [row.id])
            made = films.as_texture(session, row.id, "Lantern frames").id
            self.assertEqual(textures.load(session, made).frames, {"columns": 3, "rows": 2, "rate": 3})
            # A day later it is gone, with the next one that is made; the texture stays.
            session.execute(update(FilmRow).values(made=text("now() - interval '25 hours'")))
        doing.do_job(self.address, self.asked(Film("png", 32, 24, 0, 2, 3)))
        with Session(self.engine) as session:
            with self.assertRaisesRegex(NotFound, "no longer kept"):
                films.load(session, job.subject)
            (left,) = films.of_graph(session, self.graph)
            with self.assertRaisesRegex(FileRefused, "Only a sheet"):
                films.as_texture(session, left.id, "Frames")
            self.assertEqual(textures.load(session, made).name, "Lantern frames")

    def test_what_cannot_be_filmed_says_why(self) -> None:
        key = self.asked(Film("mp4", 31, 24, 0, 2, 3))
        doing.do_job(self.address, key)
        self.assertEqual(self.job(key).state, "failed")
        self.assertIn("even numbers", self.job(key).words)

    def test_nothing_stays_of_one_that_is_cancelled_or_killed(self) -> None:
        before, left = self.kept(), set(os.listdir("/tmp"))
        worker = Worker(self.address)
        self.addCleanup(worker.stop)
        for end in ("cancelled", "killed"):
            key = self.asked(LONG, end)
            self.until("it is under way", lambda key=key: self.job(key).share > 0)
            if end == "cancelled":
                with Session(self.engine) as session, session.begin():
                    jobs.cancel(session, key)
                self.until("it has ended", lambda key=key: self.job(key).state == "cancelled")
            else:
                worker.kill()
        self.assertEqual(self.kept(), before)
        held = [path for path in Path("/tmp").iterdir() if path.name not in left and path.suffix in (".mp4", ".zip")]
        self.assertEqual(held, [])
        with Session(self.engine) as session, session.begin():
            jobs.cancel(session, key)
