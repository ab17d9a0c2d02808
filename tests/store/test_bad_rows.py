"""What is kept and bad: lists survive it, and it can be opened, undone, taken out and deleted."""

from collections.abc import Iterator
from contextlib import contextmanager
from typing import Any
from unittest.mock import patch

from sqlalchemy import event

from tests.support.databases import StoreCase
from tests.support.graphs import enamel
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.document.graph import Node
from velvet_moth.core.files.graph_json import graph_to_json
from velvet_moth.core.operations import AddNode, LabelNode, set_field
from velvet_moth.store import documents, graphs, history, listing, projects
from velvet_moth.store.models import GraphRow, VersionRow


class BadRows(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.project = projects.first(self.session).id
        self.key = graphs.create(self.session, self.project, enamel()).id
        graphs.change(self.session, self.key, 0, AddNode(Node("far", "mix", place=(4.0, 5.0))))

    def spoil(self, key: int, **changes: Any) -> dict[str, Any]:
        """A document as another program may have kept it, past every check of this one."""
        row = self.session.get_one(GraphRow, key)
        document = {**row.document, **changes}
        row.document, row.state, row.trouble = document, f"spoilt {key}", None
        self.session.flush()
        self.session.expire_all()
        return document

    def far_out(self) -> dict[str, Any]:
        nodes = self.session.get_one(GraphRow, self.key).document["nodes"]
        return self.spoil(self.key, nodes=[{**n, "place": [1e7, 0]} if n["id"] == "far" else n for n in nodes])

    def tile(self, key: int) -> listing.Tile:
        return next(tile for tile in listing.tiles(self.session, self.project) if tile.id == key)

    def test_a_part_that_is_wrong_is_mended_told_and_kept_as_it_was(self) -> None:
        spoilt = self.far_out()
        kept = graphs.load(self.session, self.key)
        self.assertIsNone(kept.graph.nodes["far"].place)
        self.assertIn("at most 1000000 away", kept.graph.mended[0])
        self.assertIn("at most 1000000 away", self.tile(self.key).trouble)
        edited = graphs.change(self.session, self.key, 1, set_field("title", "Mended"))
        self.assertEqual((edited.graph.mended, self.tile(self.key).trouble), ((), ""))
        (version,) = history.versions(self.session, self.key)
        self.assertIn("before it was mended", version.name)
        self.assertEqual(graphs.raw_document(self.session, self.key)["title"], "Mended")
        _, before = history.version_graph(self.session, self.key, version.id)
        self.assertIsNone(before.graph.nodes["far"].place)
        kept_as_it_was = self.session.get_one(VersionRow, version.id).document
        self.assertEqual(kept_as_it_was, spoilt)

    def test_the_edit_that_spoilt_it_is_undone(self) -> None:
        self.far_out()
        kept = graphs.undo(self.session, self.key, 1)
        self.assertEqual(kept.graph, enamel())

    def test_one_of_another_version_stops_no_list_and_goes(self) -> None:
        self.spoil(self.key, version=99)
        with self.assertRaisesRegex(FileRefused, "version 99"):
            graphs.load(self.session, self.key)
        self.assertIn("version 99", self.tile(self.key).trouble)
        self.assertEqual(graphs.raw_document(self.session, self.key)["version"], 99)
        graphs.delete(self.session, self.key)
        self.assertNotIn(self.key, [tile.id for tile in listing.tiles(self.session, self.project)])
        graphs.restore(self.session, self.key)
        self.assertIn("version 99", self.tile(self.key).trouble)

    def test_a_motif_that_is_wrong_stops_no_graph(self) -> None:
        motif = graphs.create(self.session, self.project, enamel(), "motif_bad").id
        for changes in ({"version": 99}, {"nodes": 7}, {"nodes": [{"id": "x"}, 5], "variants": {}}):
            self.spoil(motif, **changes)
            self.assertEqual(graphs.load(self.session, self.key).graph.title, enamel().title)
            self.assertEqual(len(listing.tiles(self.session, self.project, motifs=True)), 1)
        graphs.delete(self.session, motif)


@contextmanager
def elsewhere() -> Iterator[None]:
    """What is done inside is done by another process, with a memory of its own."""
    documents_there: BoundedCache[Any] = BoundedCache("documents elsewhere", 1000)
    tables_there: BoundedCache[Any] = BoundedCache("tables elsewhere", 10)
    with patch.object(documents, "_documents", documents_there), patch.object(documents, "_tables", tables_there):
        yield


class RolledBack(StoreCase):
    """Two processes on one database: what one remembers and then takes back is never taken for what the other keeps."""

    def test_an_edit_taken_back_after_any_statement_leaves_nothing(self) -> None:
        project = projects.first(self.session).id
        key = graphs.create(self.session, project, enamel()).id
        motif = graphs.create(self.session, project, enamel(), "motif_one").id
        self.session.commit()
        for graph in (key, motif):
            for last in range(40):
                with self.subTest(graph=graph, statements=last):
                    whole = self.cut_short(graph, last)
                    other = f"other {last}"
                    with elsewhere():
                        revision = graphs.load(self.session, graph).revision
                        graphs.change(self.session, graph, revision, LabelNode("rim", other))
                        self.session.commit()
                    self.assertEqual(graphs.load(self.session, graph).graph.nodes["rim"].label, other)
                    row = self.session.get_one(GraphRow, graph, populate_existing=True)
                    self.assertEqual(graph_to_json(graphs.load(self.session, graph).graph), row.document)
                    table = documents.project_motifs(self.session, project)
                    if graph == motif:
                        self.assertEqual(table["motif_one"].graph.nodes["rim"].label, other)
                if whole:
                    break
            else:
                self.fail("an edit has more statements than expected")

    def cut_short(self, key: int, last: int) -> bool:
        """Edits a graph, shows it as a page would, and takes it back after so many statements; whether there were fewer."""
        count = 0

        class Cut(Exception):
            pass

        def counted(*_: Any) -> None:
            nonlocal count
            count += 1
            if count > last:
                raise Cut

        event.listen(self.engine, "before_cursor_execute", counted)
        try:
            revision = graphs.load(self.session, key).revision
            graphs.change(self.session, key, revision, LabelNode("rim", "never"))
            graphs.load(self.session, key)
        except Cut:
            return False
        finally:
            event.remove(self.engine, "before_cursor_execute", counted)
            self.session.rollback()
            self.session.expunge_all()
        return True
