"""Graphs with their history and textures, on a real PostgreSQL."""

import unittest
from concurrent.futures import ThreadPoolExecutor

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from tests.support.databases import StoreCase, graph_id
from tests.support.graphs import MADE, enamel
from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.base.errors import OperationRefused
from velvet_moth.core.document.graph import Node
from velvet_moth.core.editing.extraction import extract
from velvet_moth.core.lowering.lower import lower
from velvet_moth.core.operations import (
    OPERATIONS,
    AddNode,
    Batch,
    RemoveNodes,
    RestoreNodes,
    SetOverride,
    SetValue,
    Wire,
    set_field,
)
from velvet_moth.core.pictures.reading import Reading
from velvet_moth.core.workbench.problems import find_problems
from velvet_moth.demo.contents import named_graphs
from velvet_moth.demo.heron_lock import load_demo
from velvet_moth.demo.shipped_pictures import shipped
from velvet_moth.store import documents, graphs, listing, projects, textures
from velvet_moth.store.codec import operation_from_json, operation_to_json
from velvet_moth.store.edits import NothingToUndo, StaleRevision
from velvet_moth.store.models import BlobRow, TextureRow
from velvet_moth.store.sources import Sources


class Histories(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.graph = graphs.create(self.session, projects.first(self.session).id, enamel()).id

    def test_edits_undo_redo_and_a_new_edit_forgets_the_redo(self) -> None:
        first = graphs.load(self.session, self.graph).graph
        edits = (
            AddNode(Node("silt", "fractal_noise")),
            Wire("base_coat", "occlusion", "silt", "value"),
            RemoveNodes(("face_tint", "rim")),
            SetOverride("coarse_flake", "flake_roughness", (0.1,)),
        )
        states = [first]
        for number, operation in enumerate(edits):
            kept = graphs.change(self.session, self.graph, number, operation)
            states.append(kept.graph)
        for step, state in enumerate(reversed(states[:-1])):
            kept = graphs.undo(self.session, self.graph, len(edits) + step)
            self.assertEqual(kept.graph, state)
        self.assertEqual((kept.undo.words, kept.redo.words), ("", "added Fractal noise"))
        with self.assertRaises(NothingToUndo):
            graphs.undo(self.session, self.graph, 8)
        for step, state in enumerate(states[1:3]):
            kept = graphs.redo(self.session, self.graph, 8 + step)
            self.assertEqual(kept.graph, state)
        self.assertEqual(kept.redo.words, "removed 2 nodes")
        kept = graphs.change(self.session, self.graph, 10, set_field("title", "Other enamel"))
        self.assertEqual(kept.redo.words, "")
        with self.assertRaises(NothingToUndo):
            graphs.redo(self.session, self.graph, 11)

    def test_history_outlives_the_process(self) -> None:
        graphs.change(self.session, self.graph, 0, SetValue("rim", "power", (5.0,)))
        self.session.commit()
        documents.clear_caches()
        with Session(self.engine) as later:
            kept = graphs.undo(later, self.graph, 1)
            self.assertEqual(kept.graph, enamel())
            self.assertEqual(kept.redo.words, "set Rim width to 5")
        graphs.delete(self.session, self.graph)

    def test_a_stale_revision_tells_what_happened_since(self) -> None:
        graphs.change(self.session, self.graph, 0, set_field("title", "Theirs"))
        with self.assertRaises(StaleRevision) as caught:
            graphs.change(self.session, self.graph, 0, set_field("title", "Mine"))
        self.assertEqual(caught.exception.revision, 1)
        self.assertEqual([c.words for c in caught.exception.since], ["renamed the graph Theirs"])
        self.assertEqual(operation_from_json(caught.exception.since[0].operation), set_field("title", "Theirs"))

    def test_of_edits_made_at_once_exactly_one_is_first(self) -> None:
        self.session.commit()

        def edit(number: int) -> str:
            with Session(self.engine) as mine, mine.begin():
                try:
                    return graphs.change(mine, self.graph, 0, set_field("title", f"By {number}")).graph.title
                except StaleRevision as stale:
                    return f"stale after {stale.since[0].words}"

        with ThreadPoolExecutor(6) as pool:
            said = list(pool.map(edit, range(6)))
        winners = [s for s in said if s.startswith("By")]
        self.assertEqual(len(winners), 1)
        self.assertEqual(said.count(f"stale after renamed the graph {winners[0]}"), 5)
        self.assertEqual(graphs.load(self.session, self.graph).revision, 1)
        graphs.delete(self.session, self.graph)
        self.session.commit()

    def test_a_refused_edit_changes_nothing(self) -> None:
        with self.assertRaises(OperationRefused):
            graphs.change(self.session, self.graph, 0, RemoveNodes(("dock",)))
        kept = graphs.load(self.session, self.graph)
        self.assertEqual((kept.revision, kept.graph), (0, enamel()))

    def test_deleted_graphs_leave_the_library_and_come_back_whole(self) -> None:
        graphs.change(self.session, self.graph, 0, set_field("title", "Soon gone"))
        graphs.delete(self.session, self.graph)
        self.session.flush()
        project = projects.first(self.session).id
        self.assertNotIn("Soon gone", [k.title for k in listing.tiles(self.session, project)])
        with self.assertRaises(graphs.NotFound):
            graphs.load(self.session, self.graph)
        graphs.restore(self.session, self.graph)
        self.assertEqual(graphs.load(self.session, self.graph).graph.title, "Soon gone")
        self.assertEqual(graphs.undo(self.session, self.graph, 1).graph, enamel())

    def test_a_copy_has_its_own_name_and_history(self) -> None:
        names = [graphs.duplicate(self.session, self.graph).graph.title for _ in range(2)]
        self.assertEqual(names, ["Ferry enamel copy", "Ferry enamel copy 2"])


class ShippedPictures(unittest.TestCase):
    def test_every_graph_of_the_demo_has_one_of_what_it_is_now(self) -> None:
        self.assertEqual([name for name in named_graphs() if shipped(name) is None], [], "run ./moth pictures")


class Operations(StoreCase):
    def test_every_operation_survives_json(self) -> None:
        graph = enamel()
        _, inverse = RemoveNodes(("face_tint", "layers", "flake_map")).apply(graph)
        self.assertIsInstance(inverse, RestoreNodes)
        whole = Batch((inverse, SetOverride("night_ferry", "rim_width", None), AddNode(Node("x", "uv"))), "several")
        for operation in (inverse, whole):
            self.assertEqual(operation_from_json(operation_to_json(operation)), operation)
        self.assertEqual(len({operation.op for operation in OPERATIONS}), len(OPERATIONS))


class Motifs(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.project = projects.ensure(self.session, "Motif trials")[0].id
        made = extract(enamel(), ("gloss_fall", "gloss_scale"), "Gloss", "motif_gloss")
        self.motif = graphs.create(self.session, self.project, made.motif, "motif_gloss")
        self.user = graphs.create(self.session, self.project, enamel())
        self.user = graphs.change(self.session, self.user.id, 0, made.operation)

    def test_a_use_follows_its_motif_and_says_so_in_its_stamp(self) -> None:
        before = graphs.load(self.session, self.user.id)
        self.assertEqual(list(before.graph.used_motifs()), ["motif_gloss"])
        first = documents.project_motifs(self.session, self.project)
        self.assertIs(documents.project_motifs(self.session, self.project), first, "the same as long as none changes")
        graphs.change(self.session, self.motif.id, 0, SetValue("gloss_fall", "power", (4.0,)))
        after = graphs.load(self.session, self.user.id)
        self.assertEqual(after.revision, before.revision)
        self.assertNotEqual(after.stamp, before.stamp)
        inner = after.graph.motifs["motif_gloss"].graph
        self.assertEqual(inner.nodes["gloss_fall"].values["power"], (4.0,))
        self.assertEqual(inner.motif, "motif_gloss")

    def test_where_it_is_used_and_what_may_be_deleted(self) -> None:
        users = listing.used_by(self.session, self.project, "motif_gloss")
        self.assertEqual([u.id for u in users], [self.user.id])
        self.assertEqual([k.id for k in listing.tiles(self.session, self.project, motifs=True)], [self.motif.id])
        self.assertEqual([k.id for k in listing.tiles(self.session, self.project)], [self.user.id])
        with self.assertRaisesRegex(graphs.MotifInUse, "used by"):
            graphs.delete(self.session, self.motif.id)
        graphs.undo(self.session, self.user.id, self.user.revision)
        graphs.delete(self.session, self.motif.id)
        with self.assertRaises(graphs.NotFound):
            graphs.motif_id(self.session, self.project, "motif_gloss")
        gone = graphs.redo(self.session, self.user.id, self.user.revision + 1)
        self.assertIn("unknown-node", {p.code for p in find_problems(lower(gone.graph), {})})
        graphs.restore(self.session, self.motif.id)
        back = graphs.load(self.session, self.user.id)
        self.assertNotIn("unknown-node", {p.code for p in find_problems(lower(back.graph), {})})


class Textures(StoreCase):
    def test_one_picture_is_kept_once_for_each_way_of_reading(self) -> None:
        project = projects.first(self.session).id
        kept = MADE["flake_height"]
        before = self.session.scalar(select(func.count()).select_from(BlobRow))
        same = textures.add(self.session, project, "Again", kept.reading, kept.picture)
        self.assertEqual(same.name, "Flake height")
        other = textures.add(self.session, project, "As data", Reading("data"), kept.picture)
        self.assertNotEqual(other.id, same.id)
        self.assertEqual(self.session.scalar(select(func.count()).select_from(BlobRow)), before)
        for name, role in (("", "data"), ("x", "sound")):
            with self.assertRaises(OperationRefused):
                textures.add(self.session, project, name, Reading(role), kept.picture)

    def test_the_source_gives_what_is_kept_and_none_for_the_rest(self) -> None:
        kept = self.session.scalars(select(TextureRow).where(TextureRow.name == "Flake normal")).one()
        source = Sources(self.engine).textures(textures.states(self.session, [kept.id, "t-none"]))
        texture = source(kept.id)
        assert texture is not None
        self.assertEqual(texture.size, (512, 512))
        self.assertIs(source(kept.id), texture)
        self.assertIsNone(source("t-none"))


class Memory(unittest.TestCase):
    def test_it_holds_what_was_used_last_and_never_more_than_it_may(self) -> None:
        made: list[str] = []

        def thing(name: str) -> bytes:
            made.append(name)
            return name.encode() * 4

        cache: BoundedCache[bytes] = BoundedCache("for a test", 10, len)
        for name in ("a", "b", "a", "c", "a", "b"):
            self.assertEqual(cache.get(name, lambda n=name: thing(n)), name.encode() * 4)
            self.assertLessEqual(cache.state.holds, 10)
        self.assertEqual(made, ["a", "b", "c", "b"])
        self.assertEqual(len(cache.get("big", lambda: b"x" * 99)), 99)
        self.assertEqual(cache.find("big"), b"x" * 99, "one thing is held however large it is")


class Demo(StoreCase):
    def test_heron_lock_is_loaded_once(self) -> None:
        self.assertFalse(load_demo(self.engine))
        project = projects.first(self.session)
        titles = [k.title for k in listing.tiles(self.session, project.id)]
        self.assertEqual(project.name, "Heron Lock")
        self.assertEqual(titles[0], "Basin water")
        self.assertGreaterEqual(len(titles), 4)
        kept = graphs.load(self.session, graph_id(self.engine, "Ferry enamel"))
        self.assertEqual(len(kept.graph.variants), 4)
