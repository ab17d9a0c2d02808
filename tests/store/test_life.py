"""A graph's whole life, lived at random beside a model in memory: whatever is done, nothing is lost and nothing left over."""

import random
from collections.abc import Callable
from dataclasses import replace

from tests.support.databases import StoreCase
from tests.support.edits import random_operation
from tests.support.graphs import enamel
from velvet_moth.core.base.errors import MothError
from velvet_moth.core.document.graph import Graph
from velvet_moth.store import documents, graphs, history, listing, projects, steps
from velvet_moth.store.edits import NothingToUndo, StaleRevision
from velvet_moth.store.errors import NotFound
from velvet_moth.store.graphs import HISTORY

STEPS = 120


class Life:
    """What a graph should be: the states that hold one on another, those taken back, and named versions."""

    def __init__(self, graph: Graph) -> None:
        self.states = [graph]
        self.taken_back: list[Graph] = []
        self.versions: dict[str, Graph] = {}
        self.revision = 0

    @property
    def now(self) -> Graph:
        return self.states[-1]

    def edited(self, after: Graph) -> None:
        self.states.append(after)
        self.taken_back.clear()
        self.revision += 1


class Lives(StoreCase):
    def setUp(self) -> None:
        super().setUp()
        self.project = projects.first(self.session).id
        self.key = graphs.create(self.session, self.project, enamel()).id
        self.life = Life(enamel())
        self.draw = random.Random(5)

    # What may happen, each done to the store and to the model

    def edit(self) -> None:
        operation = random_operation(self.life.now, self.draw)
        try:
            after, _ = operation.apply(self.life.now)
        except MothError as refused:
            with self.assertRaises(type(refused)):
                graphs.change(self.session, self.key, self.life.revision, operation)
            return
        graphs.change(self.session, self.key, self.life.revision, operation)
        self.life.edited(after)

    def undo(self) -> None:
        self.one_step(graphs.undo, self.life.states[1:], lambda: self.life.taken_back.append(self.life.states.pop()))

    def redo(self) -> None:
        self.one_step(graphs.redo, self.life.taken_back, lambda: self.life.states.append(self.life.taken_back.pop()))

    def one_step(self, do: Callable[..., object], left: list[Graph], follow: Callable[[], None]) -> None:
        if not left:
            with self.assertRaises(NothingToUndo):
                do(self.session, self.key, self.life.revision)
            return
        do(self.session, self.key, self.life.revision)
        follow()
        self.life.revision += 1

    def jump(self) -> None:
        found = steps.steps(self.session, HISTORY, self.key)
        self.assertEqual(len(found), len(self.life.states) - 1 + len(self.life.taken_back))
        self.assertEqual(sum(s.is_done for s in found), len(self.life.states) - 1)
        goal = self.draw.randrange(len(found) + 1)
        history.go_to(self.session, self.key, self.life.revision, found[goal - 1].number if goal else 0)
        line = [*self.life.states, *reversed(self.life.taken_back)]
        if goal != len(self.life.states) - 1:
            self.life.revision += 1
        self.life.states, self.life.taken_back = line[: goal + 1], line[:goal:-1]

    def keep(self) -> None:
        name = f"Version {self.draw.randrange(5)}"
        if name in self.life.versions:
            with self.assertRaisesRegex(MothError, "Another version has this name"):
                history.keep_version(self.session, self.key, name)
            return
        history.keep_version(self.session, self.key, name)
        self.life.versions[name] = self.life.now

    def bring_back(self) -> None:
        for version in history.versions(self.session, self.key)[-1:]:
            # A title names the graph as it is now.
            kept = replace(self.life.versions[version.name], title=self.life.now.title)
            if kept == self.life.now:
                with self.assertRaisesRegex(MothError, "this version already"):
                    history.restore_version(self.session, self.key, self.life.revision, version.id)
                return
            history.restore_version(self.session, self.key, self.life.revision, version.id)
            self.life.edited(kept)

    def forget(self) -> None:
        for version in history.versions(self.session, self.key)[:1]:
            history.remove_version(self.session, self.key, version.id)
            del self.life.versions[version.name]
            with self.assertRaises(NotFound):
                history.restore_version(self.session, self.key, self.life.revision, version.id)

    def go_and_return(self) -> None:
        graphs.delete(self.session, self.key)
        self.session.flush()
        for refused in (
            lambda: graphs.undo(self.session, self.key, self.life.revision),
            lambda: graphs.load(self.session, self.key),
            lambda: steps.steps(self.session, HISTORY, self.key),
        ):
            with self.assertRaises(NotFound):
                refused()
        graphs.restore(self.session, self.key)

    def come_late(self) -> None:
        """With the state of a page that has slept: refused, with what happened since."""
        if not self.life.revision:
            return
        late = self.draw.randrange(self.life.revision)
        for refused in (
            lambda: graphs.change(self.session, self.key, late, random_operation(self.life.now, self.draw)),
            lambda: graphs.undo(self.session, self.key, late),
            lambda: history.go_to(self.session, self.key, late, 0),
        ):
            with self.assertRaises(StaleRevision) as caught:
                refused()
            self.assertEqual(len(caught.exception.since), self.life.revision - late)

    def copy(self) -> None:
        other = graphs.duplicate(self.session, self.key)
        self.assertEqual(other.graph.nodes, self.life.now.nodes)
        self.assertEqual((other.revision, other.undo.words, other.redo.words), (0, "", ""))
        graphs.delete(self.session, other.id)
        self.session.flush()

    def test_whatever_is_done_the_store_keeps_what_it_should(self) -> None:
        acts: dict[Callable[[], None], int] = {
            self.edit: 12,
            self.undo: 5,
            self.redo: 3,
            self.jump: 3,
            self.keep: 2,
            self.bring_back: 2,
            self.forget: 1,
            self.go_and_return: 1,
            self.come_late: 1,
            self.copy: 1,
        }
        titles = sorted(k.title for k in listing.tiles(self.session, self.project) if k.id != self.key)
        for step, act in enumerate(self.draw.choices(list(acts), list(acts.values()), k=STEPS)):
            act()
            if step % 40 == 39:
                # As another process would find it.
                documents.clear_caches()
                self.session.expire_all()
            kept = graphs.load(self.session, self.key)
            told = f"step {step}: {act.__name__}"
            self.assertTrue(kept.graph == self.life.now, told)
            self.assertEqual(kept.revision, self.life.revision, told)
            self.assertEqual(bool(kept.undo.words), len(self.life.states) > 1, told)
            self.assertEqual(bool(kept.redo.words), bool(self.life.taken_back), told)
            named = {v.name for v in history.versions(self.session, self.key)}
            self.assertEqual(named, set(self.life.versions), told)
        others = sorted(k.title for k in listing.tiles(self.session, self.project) if k.id != self.key)
        self.assertEqual(others, titles, "no other graph was touched")
