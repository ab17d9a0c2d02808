"""Block models: edits beside a plain array, shapes by hand, parts that are moved, and the surface against a count of every face."""

import unittest
from dataclasses import replace

import numpy as np
from pydantic import TypeAdapter

from velvet_moth.core.base.errors import FileRefused, OperationRefused
from velvet_moth.core.blocks.cells import (
    CHUNK,
    SIDE,
    Blocks,
    blocks_of,
    changed_chunks,
    packed_cells,
    unpacked_cells,
)
from velvet_moth.core.blocks.drawing import BlockStroke, drawn
from velvet_moth.core.blocks.model import BlockModel, Entry, Settings, settings_from_json, settings_to_json
from velvet_moth.core.blocks.moving import BlockMove, moved
from velvet_moth.core.blocks.operations import (
    AnyBlockOperation,
    SetEntry,
    change_of,
    exchange_change,
    move_change,
    stroke_change,
)
from velvet_moth.core.blocks.shapes import SHAPES
from velvet_moth.core.blocks.surface import SIDES, chunk_box, faces_in, merged, surface_of

OPERATIONS: TypeAdapter[AnyBlockOperation] = TypeAdapter(AnyBlockOperation)
WHOLE = ((0, 0, 0), (48, 48, 48))


def model(blocks: Blocks | None = None) -> BlockModel:
    return BlockModel(Settings("Lamp"), blocks or Blocks())


def random_blocks(seed: int, side: int = 20, share: float = 0.4) -> Blocks:
    source = np.random.default_rng(seed)
    filled = source.uniform(size=(side,) * 3) < share
    return blocks_of(np.where(filled, source.integers(1, 5, (side,) * 3), 0).astype(np.uint16))


class BesideAnArray(unittest.TestCase):
    def test_ten_thousand_edits_undone_and_redone_are_those_of_a_plain_array(self) -> None:
        """The array keeps, for itself, what each edit took away; operations go through text, as they are kept."""
        source = np.random.default_rng(22)
        now, plain = model(), np.zeros((48, 48, 48), dtype=np.uint16)
        done: list[tuple[AnyBlockOperation, np.ndarray, np.ndarray, np.ndarray]] = []
        undone: list[tuple[AnyBlockOperation, np.ndarray, np.ndarray, np.ndarray]] = []
        for number in range(10_000):
            what = source.uniform()
            if (what < 0.25 and done) or (what < 0.4 and undone):
                stacks = (done, undone) if what < 0.25 and done else (undone, done)
                operation, cells, before, after = stacks[0].pop()
                now, back = OPERATIONS.validate_json(OPERATIONS.dump_json(operation)).apply(now)
                plain[tuple(cells.T)] = before
                stacks[1].append((back, cells, after, before))
            else:
                # Mostly in one chunk, now and then across some.
                middle = source.integers(0, 13 if what < 0.95 else 17, 3) + CHUNK * source.integers(0, 2, 3)
                cells = middle + np.stack(np.unravel_index(source.permutation(64)[:4], (4, 4, 4)), axis=1)
                entries = source.integers(0, 257, len(cells)).astype(np.uint16) * (source.uniform() < 0.8)
                now, back = change_of(now.blocks, now.blocks.with_cells(cells, entries), "drew").apply(now)
                done.append((back, cells, plain[tuple(cells.T)].copy(), entries))
                undone.clear()
                plain[tuple(cells.T)] = entries
            if number % 500 == 499:
                np.testing.assert_array_equal(now.blocks.dense(WHOLE), plain)

    def test_cells_are_those_of_an_array_and_counted_alike(self) -> None:
        source = np.random.default_rng(5)
        found, plain = Blocks(), np.zeros((48, 48, 48), dtype=np.uint16)
        for _ in range(2_000):
            cells = source.integers(0, 48, (int(source.integers(1, 5)), 3))
            entry = int(source.integers(0, 257)) if source.uniform() < 0.7 else 0
            found = found.with_cells(cells, entry)
            plain[tuple(cells.T)] = entry
        np.testing.assert_array_equal(found.dense(WHOLE), plain)
        self.assertEqual(found.count, np.count_nonzero(plain))
        self.assertEqual(found.uses, {e: int((plain == e).sum()) for e in range(1, 257) if (plain == e).any()})
        filled = np.argwhere(plain)
        self.assertEqual(found.box, (tuple(filled.min(axis=0)), tuple(filled.max(axis=0) + 1)))
        self.assertEqual({tuple(p) for p in found.places(7).tolist()}, {tuple(p) for p in np.argwhere(plain == 7)})
        some = source.integers(-5, 60, (500, 3))
        inside = ((some >= 0) & (some < 48)).all(axis=1)
        expected = np.zeros(500, dtype=np.uint16)
        expected[inside] = plain[tuple(some[inside].T)]
        np.testing.assert_array_equal(found.at(some), expected)
        box = ((-3, 10, 5), (20, 60, 9))
        whole = np.pad(plain, 16)
        np.testing.assert_array_equal(found.dense(box), whole[13:36, 26:76, 21:25])
        self.assertFalse(Blocks().with_cells(np.array([[1, 2, 3]]), 4).with_cells(np.array([[1, 2, 3]]), 0).chunks)

    def test_a_chunk_is_packed_and_read_back_and_broken_ones_are_refused(self) -> None:
        for cells in (random_blocks(1).chunk((0, 0, 0)), np.full((CHUNK,) * 3, 256, dtype=np.uint16)):
            np.testing.assert_array_equal(unpacked_cells(packed_cells(cells), "here"), cells)
        bomb = packed_cells(np.zeros((CHUNK * 16, CHUNK, CHUNK), dtype=np.uint16))
        too_large = packed_cells(np.full((CHUNK,) * 3, 300, dtype=np.uint16))
        for broken in (b"", b"blocks", packed_cells(cells)[:-9], bomb, too_large):
            with self.assertRaises(FileRefused):
                unpacked_cells(broken, "here")


class Shapes(unittest.TestCase):
    def drawn(self, shape: str, first: tuple[int, int, int], last: tuple[int, int, int], **more: object) -> set[object]:
        stroke = replace(BlockStroke(shape, "put", first, last, 3), **more)  # type: ignore[arg-type]  # fields by name
        return {tuple(p) for p in drawn(Blocks(), stroke).places(3).tolist()}

    def test_lines_boxes_and_balls(self) -> None:
        self.assertEqual(self.drawn("single", (4, 5, 6), (9, 9, 9)), {(4, 5, 6)})
        self.assertEqual(
            self.drawn("line", (0, 0, 0), (4, 2, 0)), {(0, 0, 0), (1, 1, 0), (2, 1, 0), (3, 2, 0), (4, 2, 0)}
        )
        for end in ((9, 3, 5), (0, 7, 2), (3, 3, 9)):
            line = np.array(sorted(self.drawn("line", (2, 4, 6), end)))
            along = np.subtract(end, (2, 4, 6)) / np.linalg.norm(np.subtract(end, (2, 4, 6)))
            off = line - np.array((2, 4, 6))
            away = np.linalg.norm(off - np.outer(off @ along, along), axis=1)
            self.assertLess(away.max(), 0.87, "within half the diagonal of a block")
            self.assertEqual(len(line), 1 + np.abs(np.subtract(end, (2, 4, 6))).max())
        self.assertEqual(len(self.drawn("box", (5, 5, 5), (3, 8, 5))), 12)
        ball = self.drawn("ball", (50, 50, 50), (58, 50, 50))
        self.assertAlmostEqual(len(ball), 4 / 3 * np.pi * 8.5**3, delta=90)
        self.assertEqual({(100 - x, y, z) for x, y, z in ball}, ball)  # type: ignore[misc]  # three numbers each

    def test_what_is_joined_and_all_of_an_entry(self) -> None:
        blocks = Blocks().with_cells(np.array([[0, 0, 0], [1, 0, 0], [1, 1, 0], [3, 1, 0], [2, 2, 0]]), 2)
        blocks = blocks.with_cells(np.array([[2, 1, 0]]), 9)
        near = drawn(blocks, BlockStroke("joined", "recolour", (0, 0, 0), (0, 0, 0), 5))
        self.assertEqual(near.uses, {2: 2, 5: 3, 9: 1})
        self.assertEqual(drawn(blocks, BlockStroke("entry", "take", (0, 0, 0), (0, 0, 0))).uses, {9: 1})
        with self.assertRaisesRegex(OperationRefused, "no block here"):
            drawn(blocks, BlockStroke("joined", "take", (9, 9, 9), (9, 9, 9)))

    def test_mirrored_within_a_slice_and_onto_what_is_there(self) -> None:
        both = self.drawn("line", (120, 0, 3), (122, 0, 3), mirrored=(True, False, False), about=(128.0, 0.0, 0.0))
        self.assertEqual(both, {(x, 0, 3) for x in (120, 121, 122, 133, 134, 135)})
        odd = self.drawn("single", (120, 0, 3), (0, 0, 0), mirrored=(True, False, True), about=(121.5, 0.0, 5.0))
        self.assertEqual(odd, {(120, 0, 3), (122, 0, 3), (120, 0, 6), (122, 0, 6)})
        thin = self.drawn("ball", (20, 20, 20), (24, 20, 20), low=(0, 20, 0), high=(255, 20, 255))
        self.assertEqual({y for _, y, _ in thin}, {20})  # type: ignore[misc]  # three numbers each
        painted = drawn(random_blocks(3), BlockStroke("box", "recolour", (0, 0, 0), (30, 30, 30), 7))
        self.assertEqual(painted.uses, {7: random_blocks(3).count})
        at_the_edge = self.drawn("ball", (0, 0, 0), (2, 0, 0))
        self.assertTrue(all(min(p) >= 0 for p in at_the_edge))  # type: ignore[call-overload]  # three numbers each

    def test_what_does_not_fit_says_so(self) -> None:
        cases = [
            (BlockStroke("star", "put", (0, 0, 0), (0, 0, 0)), "no such shape"),
            (BlockStroke("box", "put", (-9, 0, 0), (-2, 5, 5)), "Nothing of this"),
            (BlockStroke("ball", "put", (0, 0, 0), (9000, 0, 0)), "too far outside"),
            *(
                (BlockStroke("single", "put", (0, 0, 0), (0, 0, 0), entry), "An entry is 1")
                for entry in (-1, 0, 257, 70_000)
            ),
        ]
        for stroke, words in cases:
            with self.subTest(words), self.assertRaisesRegex(OperationRefused, words):
                drawn(Blocks(), stroke)
        for move, words in (
            (BlockMove((0, 0, 0), (300, 1, 1), (0, 0, 0)), "not inside"),
            (BlockMove((60, 0, 0), (61, 1, 1), (0, 0, 0)), "no blocks"),
            (BlockMove((0, 0, 0), (19, 19, 19), (250, 0, 0)), "outside the model"),
        ):
            with self.subTest(words), self.assertRaisesRegex(OperationRefused, words):
                moved(random_blocks(1), move)
        for wrong in (Settings(" "), Settings("Lamp", size=99.0), Settings("Lamp", entries={0: Entry(True)})):
            with self.assertRaises(OperationRefused):
                settings_from_json(settings_to_json(wrong), "here")


class Moving(unittest.TestCase):
    def test_parts_are_turned_as_space_is(self) -> None:
        """Cells taken through rotation matrices, each about the middle of its part."""
        part = random_blocks(8, 6)
        for turns in ((1, 0, 0), (0, 1, 0), (0, 0, 1), (2, 3, 1)):
            after = moved(part, BlockMove((0, 0, 0), (5, 5, 5), (40, 40, 40), turns))
            matrix = np.eye(3)
            for axis, quarters in enumerate(turns):
                quarter = np.zeros((3, 3))
                first, second = (axis + 1) % 3, (axis + 2) % 3
                quarter[axis, axis] = quarter[second, first] = 1.0
                quarter[first, second] = -1.0
                matrix = np.linalg.matrix_power(quarter, quarters) @ matrix
            places = part.places()
            there = np.round((places - 2.5) @ matrix.T + 42.5).astype(np.int64)
            np.testing.assert_array_equal(after.at(there), part.at(places))
            self.assertEqual(after.count, part.count)

    def test_copies_stay_and_what_moves_onto_itself_is_whole(self) -> None:
        part = random_blocks(9, 6)
        self.assertEqual(moved(part, BlockMove((0, 0, 0), (5, 5, 5), (9, 0, 0), copy=True)).count, 2 * part.count)
        on = moved(part, BlockMove((0, 0, 0), (5, 5, 5), (1, 0, 0)))
        np.testing.assert_array_equal(on.dense(((1, 0, 0), (7, 6, 6))), part.dense(((0, 0, 0), (6, 6, 6))))
        flipped = moved(part, BlockMove((0, 0, 0), (5, 5, 5), (0, 0, 0), mirrored=(True, False, False)))
        np.testing.assert_array_equal(flipped.dense(((0, 0, 0), (6, 6, 6))), part.dense(((0, 0, 0), (6, 6, 6)))[::-1])

    def test_changes_say_what_they_do_and_are_taken_back(self) -> None:
        first = model(random_blocks(4))
        changes = [
            stroke_change(first, [BlockStroke("box", "take", (0, 0, 0), (30, 3, 30))], "slate"),
            stroke_change(first, [BlockStroke("ball", "put", (9, 9, 9), (9, 14, 9), 3)], "slate"),
            move_change(first, BlockMove((0, 0, 0), (9, 9, 9), (30, 5, 5))),
            exchange_change(first, 1, 2, ("slate", "rope")),
        ]
        for change in changes:
            after, back = change.apply(first)
            before, _ = back.apply(after)
            self.assertFalse(changed_chunks(before.blocks, first.blocks))
            self.assertTrue(changed_chunks(after.blocks, first.blocks))
        self.assertEqual(changes[1].words(first), "put a ball of slate")
        swapped = changes[3].apply(first)[0].blocks.uses
        self.assertEqual((swapped[1], swapped[2]), (first.blocks.uses[2], first.blocks.uses[1]))
        seen, back_again = SetEntry(3, Entry(see_through=True)).apply(first)
        self.assertEqual((seen.see_through, back_again.apply(seen)[0].see_through), (frozenset({3}), frozenset()))


class Surface(unittest.TestCase):
    def counted(self, blocks: Blocks, clear: frozenset[int] = frozenset()) -> dict[tuple[int, ...], int]:
        """Every face by looking at each block's six neighbours: place, direction, entry."""
        cells = {tuple(p): int(e) for p, e in zip(blocks.places().tolist(), blocks.at(blocks.places()), strict=True)}
        found = {}
        for place, entry in cells.items():
            for axis in range(3):
                for sign in (1, -1):
                    beside = cells.get(tuple(c + sign * (i == axis) for i, c in enumerate(place)), 0)
                    if beside == 0 or (beside in clear and beside != entry):
                        found[(*place, axis, sign)] = entry
        return found

    def of_mesh(
        self, blocks: Blocks, size: float, is_merged: bool, clear: frozenset[int]
    ) -> dict[tuple[int, ...], int]:
        """The same, read off the triangles: every block face whose middle lies in one."""
        mesh = surface_of(blocks, size, clear, is_merged)
        assert mesh is not None and mesh.second is not None
        found: dict[tuple[int, ...], int] = {}
        quads = mesh.positions.reshape(-1, 4, 3).astype(np.float64) / size + np.array((SIDE // 2, 0, SIDE // 2))
        for quad, normal, second in zip(quads, mesh.normals[::4], mesh.second[::4], strict=True):
            axis = int(np.abs(normal).argmax())
            low, high = np.round(quad.min(axis=0)).astype(int), np.round(quad.max(axis=0)).astype(int)
            high[axis] += 1
            for cell in np.ndindex(*(high - low)):
                place = low + np.array(cell)
                place[axis] -= int(normal[axis] > 0)
                key = (*place.tolist(), axis, int(normal[axis]))
                self.assertNotIn(key, found, "no face twice")
                found[key] = int(second[0])
            self.assertAlmostEqual(float(second[1]), size, places=6)
        return found

    def test_exactly_the_faces_that_can_be_seen(self) -> None:
        blocks = random_blocks(6, 12)
        for clear in (frozenset[int](), frozenset({2})):
            expected = self.counted(blocks, clear)
            for is_merged in (False, True):
                self.assertEqual(self.of_mesh(blocks, 0.25, is_merged, clear), expected)

    def test_merging_keeps_few_and_the_chunks_together_are_the_whole(self) -> None:
        house = blocks_of(np.full((40, 20, 30), 7, dtype=np.uint16))
        faces = faces_in(house, house.box or WHOLE)
        self.assertEqual((len(faces), len(merged(faces))), (2 * (40 * 20 + 40 * 30 + 20 * 30), 6))
        blocks = random_blocks(2, 40, 0.7)
        apart = sum(len(faces_in(blocks, chunk_box(key))) for key in blocks.chunks)
        self.assertEqual(apart, len(faces_in(blocks, blocks.box or WHOLE)))
        inside = faces_in(house, ((0, 0, 0), (40, 10, 30)), within=((0, 0, 0), (40, 10, 30)))
        self.assertEqual(len(inside), 2 * (40 * 10 + 40 * 30 + 10 * 30), "what is cut off shows its cut")

    def test_tiles_stand_upright_and_go_on_from_block_to_block(self) -> None:
        """Right and up of each side, where right crossed with up points out; and coordinates that grow along both."""
        mesh = surface_of(blocks_of(np.full((2, 3, 4), 1, dtype=np.uint16)), 0.5, is_merged=False)
        assert mesh is not None
        corners = mesh.positions[mesh.triangles].astype(np.float64)
        out = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        np.testing.assert_allclose(out / np.linalg.norm(out, axis=1, keepdims=True), mesh.normals[mesh.triangles[:, 0]])
        self.assertTrue(mesh.is_closed)
        up = np.cross(mesh.normals, mesh.tangents[:, :3])
        walls = mesh.normals[:, 1] == 0
        np.testing.assert_array_equal(up[walls], np.broadcast_to((0, 1, 0), up[walls].shape))
        for directions, coordinate in ((mesh.tangents[:, :3], mesh.uvs[:, 0]), (up, mesh.uvs[:, 1])):
            along = np.sum(mesh.positions * directions, axis=1) / 0.5
            np.testing.assert_allclose((coordinate - along) % 1.0 % 1.0, 0.0, atol=1e-5)
        self.assertEqual(len(SIDES), 6)


class Table(unittest.TestCase):
    def test_every_shape_says_what_it_does(self) -> None:
        for shape in SHAPES.values():
            self.assertTrue(shape.words.endswith("."))
