"""Block models, kept with their edits: the settings in a row, each chunk of cells in a row of its own."""

from dataclasses import replace
from functools import partial

from pydantic import TypeAdapter
from sqlalchemy import delete as delete_rows
from sqlalchemy import func, select, tuple_
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from velvet_moth.core.base.cache import BoundedCache
from velvet_moth.core.blocks.cells import Blocks, ChunkKey, changed_chunks, packed_cells, unpacked_cells
from velvet_moth.core.blocks.model import (
    BlockModel,
    Settings,
    checked_settings,
    settings_from_json,
    settings_to_json,
)
from velvet_moth.core.blocks.operations import AnyBlockOperation
from velvet_moth.core.document.values import fresh_name
from velvet_moth.store.edits import History
from velvet_moth.store.events import News, announce
from velvet_moth.store.models import BlockChunkRow, BlockModelRow, BlockRevisionRow, new_state

# By states, which are never used again; counted in chunks of 8 KB.
_blocks: BoundedCache[Blocks] = BoundedCache("blocks", 16_384, lambda blocks: len(blocks.chunks), "chunks")


class BlockHistory(History[BlockModelRow, BlockModel]):
    """The edits of block models."""

    noun, where_from = "block model", "the blocks"
    rows, edits, owner = BlockModelRow, BlockRevisionRow, "model_id"
    operations = TypeAdapter(AnyBlockOperation)

    def document(self, session: Session, row: BlockModelRow) -> BlockModel:
        return model_of(session, row)

    def title(self, row: BlockModelRow) -> str:
        return row.name

    def write(self, session: Session, row: BlockModelRow, before: BlockModel, after: BlockModel) -> None:
        _keep_chunks(session, row.id, before.blocks, after.blocks)
        row.name, row.settings, row.count = after.name, settings_to_json(after.settings), after.blocks.count
        row.state = new_state()
        _blocks.get(row.state, partial(_as_it_is, after.blocks))

    def written(self, session: Session, row: BlockModelRow, after: BlockModel, words: str) -> None:
        announce(session, News(blocks=row.id, revision=row.revision, words=words))


HISTORY = BlockHistory()


def settings_of(row: BlockModelRow) -> Settings:
    """The settings of a row, for which no blocks are read."""
    return settings_from_json(row.settings, f"block model {row.id}")


def model_of(session: Session, row: BlockModelRow) -> BlockModel:
    """The model of a row."""
    blocks = _read(session, row)
    return BlockModel(settings_of(row), blocks)


def _read(session: Session, row: BlockModelRow) -> Blocks:
    found = _blocks.find(row.state)
    while found is None:
        kept = select(BlockChunkRow.x, BlockChunkRow.y, BlockChunkRow.z, BlockChunkRow.data)
        packed = session.execute(kept.where(BlockChunkRow.model_id == row.id)).tuples().all()
        state = row.state
        session.refresh(row, ("state", "settings", "revision", "undo", "redo"))
        # Chunks that were read while somebody drew belong to no state.
        if state == row.state:
            where = f"block model {row.id}"
            read = Blocks().with_chunks({(x, y, z): unpacked_cells(data, where) for x, y, z, data in packed})
            found = _blocks.get(state, partial(_as_it_is, read))
    return found


def _as_it_is(blocks: Blocks) -> Blocks:
    return blocks


def _keep_chunks(session: Session, model: int, before: Blocks, after: Blocks) -> None:
    changed = changed_chunks(before, after)
    gone = [key for key in changed if key not in after.chunks]
    place = tuple_(BlockChunkRow.x, BlockChunkRow.y, BlockChunkRow.z)
    if gone:
        session.execute(delete_rows(BlockChunkRow).where(BlockChunkRow.model_id == model, place.in_(gone)))
    kept = [_chunk(model, key, after) for key in changed if key in after.chunks]
    if kept:
        put = insert(BlockChunkRow)
        session.execute(
            put.on_conflict_do_update(index_elements=["model_id", "x", "y", "z"], set_={"data": put.excluded.data}),
            kept,
        )


def _chunk(model: int, key: ChunkKey, blocks: Blocks) -> dict[str, object]:
    x, y, z = key
    return {"model_id": model, "x": x, "y": y, "z": z, "data": packed_cells(blocks.chunk(key))}


def listed(session: Session, project_id: int) -> list[BlockModelRow]:
    """The block models of a project, by name."""
    found = select(BlockModelRow).where(BlockModelRow.project_id == project_id, BlockModelRow.deleted.is_(None))
    return list(session.scalars(found.order_by(BlockModelRow.name, BlockModelRow.id)))


def create(session: Session, project_id: int, model: BlockModel) -> BlockModelRow:
    """Keeps a new model under a free name."""
    settings = checked_settings(model.settings)
    name = fresh_name(settings.name, {row.name for row in listed(session, project_id)})
    row = BlockModelRow(project_id=project_id, name=name, state=new_state(), mesh="", revision=0, undo=[], redo=[])
    row.settings, row.count = settings_to_json(replace(settings, name=name)), model.blocks.count
    session.add(row)
    session.flush()
    _keep_chunks(session, row.id, Blocks(), model.blocks)
    session.refresh(row)
    announce(session, News(blocks=row.id))
    return row


def delete(session: Session, key: int) -> None:
    """Takes a model out of the list; the mesh that was made of it stays."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = row.deleted or func.now()
    announce(session, News(blocks=row.id))


def restore(session: Session, key: int) -> BlockModelRow:
    """Brings a deleted model back."""
    row = HISTORY.find(session, key, lock=True)
    row.deleted = None
    session.flush()
    announce(session, News(blocks=row.id))
    return row
