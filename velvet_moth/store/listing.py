"""Lists of graphs, out of columns: no document is read, and the number of queries is the same for any number of graphs."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import ColumnElement, func, or_, select
from sqlalchemy.orm import InstrumentedAttribute, Session

from velvet_moth.store import documents
from velvet_moth.store.models import GraphRow, MeshRow, TextureRow

# Tiles that are listed at once; more come as they are scrolled to.
PAGE = 60


@dataclass(frozen=True)
class Order:
    """A way to sort a list of graphs: what people call it, and the columns in their order."""

    words: str
    by: tuple[ColumnElement[Any] | InstrumentedAttribute[Any], ...]


ORDERS = {
    "changed": Order("Last changed first", (GraphRow.changed.desc(), GraphRow.id.desc())),
    "title": Order("By title", (func.lower(GraphRow.title), GraphRow.id)),
    "nodes": Order("Most nodes first", (GraphRow.nodes.desc(), GraphRow.id.desc())),
    "created": Order("Newest first", (GraphRow.id.desc(),)),
}


@dataclass(frozen=True)
class Tile:
    """A graph as a list shows it. ``stamp`` changes with everything that shows in its picture."""

    id: int
    title: str
    motif: str
    revision: int
    nodes: int
    variants: tuple[tuple[str, str], ...]
    kind: str
    tags: tuple[str, ...]
    trouble: str
    stamp: str


@dataclass(frozen=True)
class Wanted:
    """Which graphs are asked for: those whose title or a tag holds the ``query`` and that have all of the ``tags``."""

    query: str = ""
    tags: tuple[str, ...] = ()


EVERY = Wanted()

_COLUMNS = (
    *(GraphRow.id, GraphRow.title, GraphRow.motif, GraphRow.revision, GraphRow.nodes, GraphRow.variants, GraphRow.kind),
    *(GraphRow.tags, GraphRow.trouble, GraphRow.state, GraphRow.uses, GraphRow.reads, GraphRow.backdrop_graphs),
    GraphRow.mesh,
)
# A row of these columns, or of some of them.
_Columns = Any


def _of(project_id: int, *more: ColumnElement[bool]) -> ColumnElement[bool]:
    found: ColumnElement[bool] = (GraphRow.project_id == project_id) & GraphRow.deleted.is_(None)
    for condition in more:
        found = found & condition
    return found


def _named(motifs: bool, wanted: Wanted) -> ColumnElement[bool]:
    found: ColumnElement[bool] = GraphRow.motif.is_not(None) if motifs else GraphRow.motif.is_(None)
    if query := wanted.query.strip():
        words = func.array_to_string(GraphRow.tags, ",")
        found = found & or_(*(text.icontains(query, autoescape=True) for text in (GraphRow.title, words)))
    return found & GraphRow.tags.contains(list(wanted.tags)) if wanted.tags else found


def tiles(
    session: Session,
    project_id: int,
    motifs: bool = False,
    start: int = 0,
    most: int = PAGE,
    wanted: Wanted = EVERY,
    order: str = "changed",
) -> list[Tile]:
    """The graphs of a project, or its motifs, in one of ``ORDERS``, from the one numbered ``start`` (0 is first)."""
    kind = _named(motifs, wanted)
    asked = select(*_COLUMNS).where(_of(project_id, kind)).order_by(*ORDERS[order].by).offset(start).limit(most)
    rows = session.execute(asked).all()
    unread = [row.id for row in rows if row.trouble is None]
    if unread:
        documents.look_for_trouble(session, unread)
        rows = session.execute(asked).all()
    return _tiles(session, project_id, rows)


def tags(session: Session, project_id: int) -> list[tuple[str, int]]:
    """The tags of a project's graphs and motifs in order, each with how many have it."""
    one = func.unnest(GraphRow.tags).label("tag")
    found = select(one, func.count()).where(_of(project_id)).group_by(one).order_by(one)
    return [(tag, number) for tag, number in session.execute(found).tuples()]


def count(session: Session, project_id: int, motifs: bool = False, wanted: Wanted = EVERY) -> int:
    """How many ``tiles`` there are in all."""
    found = _of(project_id, _named(motifs, wanted))
    return session.scalar(select(func.count()).select_from(GraphRow).where(found)) or 0


def _tiles(session: Session, project_id: int, rows: Sequence[_Columns]) -> list[Tile]:
    inside = _Inside(session, project_id, [key for row in rows for key in row.backdrop_graphs])
    wanted = {key for row in rows for key in inside.textures(row.uses, row.reads)}
    wanted |= {key for one in inside.behind.values() for key in inside.textures(one.uses, one.reads)}
    revisions: dict[str, str] = {}
    if wanted:
        read = select(TextureRow.id, TextureRow.revision, TextureRow.sha256).where(TextureRow.id.in_(wanted))
        revisions = {key: f"{revision}.{sha256}" for key, revision, sha256 in session.execute(read)}
    if stood_on := {row.mesh for row in rows if row.mesh}:
        drawn = select(MeshRow.id, MeshRow.packed).where(MeshRow.id.in_(stood_on), MeshRow.deleted.is_(None))
        revisions |= dict(session.execute(drawn).tuples().all())
    return [
        Tile(
            row.id,
            row.title,
            motif=row.motif or "",
            revision=row.revision,
            nodes=row.nodes,
            variants=tuple((key, name) for key, name in row.variants),
            kind=row.kind,
            tags=tuple(row.tags),
            trouble=row.trouble or "",
            stamp=inside.stamp(row, revisions),
        )
        for row in rows
    ]


class _Inside:
    """What the graphs of a project hold of one another."""

    def __init__(self, session: Session, project_id: int, behind: Iterable[str]) -> None:
        # Named by type: a list of them is short against that of all graphs.
        found = select(GraphRow.motif, GraphRow.state, GraphRow.uses, GraphRow.reads)
        rows = session.execute(found.where(_of(project_id, GraphRow.motif.is_not(None))))
        self.motifs: Mapping[str, _Columns] = {row.motif: row for row in rows}
        keys = {int(key) for key in behind if key.isascii() and key.isdigit() and len(key) < 10}
        found_behind = session.execute(select(*_COLUMNS).where(GraphRow.id.in_(keys))) if keys else ()
        self.behind: Mapping[str, _Columns] = {str(row.id): row for row in found_behind}

    def types(self, uses: Sequence[str]) -> list[str]:
        """The motifs used, those inside motifs included."""
        found: dict[str, None] = {}
        todo = [type_ for type_ in uses if type_ in self.motifs]
        while todo:
            type_ = todo.pop()
            if type_ not in found:
                found[type_] = None
                todo += [inner for inner in self.motifs[type_].uses if inner in self.motifs]
        return sorted(found)

    def textures(self, uses: Sequence[str], reads: Sequence[str]) -> set[str]:
        return {*reads, *(key for type_ in self.types(uses) for key in self.motifs[type_].reads)}

    def stamp(self, row: _Columns, revisions: Mapping[str, str]) -> str:
        parts = []
        for one in (row, *(self.behind[key] for key in row.backdrop_graphs if key in self.behind)):
            parts += [one.state[:8], *(self.motifs[type_].state[:8] for type_ in self.types(one.uses))]
            parts += [revisions.get(key, "")[:12] for key in sorted(self.textures(one.uses, one.reads))]
        parts += [revisions.get(row.mesh, "")[:12]] if row.mesh else []
        return "-".join(parts)


def used_by(session: Session, project_id: int, motif: str) -> list[Tile]:
    """The graphs and motifs of a project in which nodes of that type stand, graphs first."""
    return _matching(session, project_id, GraphRow.uses.contains([motif]))


def using_texture(session: Session, project_id: int, texture: str) -> list[Tile]:
    """The graphs and motifs of a project that read a texture, in any variant, be it inside a motif."""
    inside = _Inside(session, project_id, ())
    readers = [type_ for type_ in inside.motifs if texture in inside.textures([type_], ())]
    reads = GraphRow.reads.contains([texture])
    return _matching(session, project_id, or_(reads, GraphRow.uses.overlap(readers)) if readers else reads)


def using_mesh(session: Session, project_id: int, mesh: str) -> list[Tile]:
    """The graphs and motifs of a project that stand on a mesh."""
    return _matching(session, project_id, GraphRow.mesh == mesh)


def _matching(session: Session, project_id: int, condition: ColumnElement[bool]) -> list[Tile]:
    order = (GraphRow.motif.is_not(None), GraphRow.changed.desc(), GraphRow.id.desc())
    rows = session.execute(select(*_COLUMNS).where(_of(project_id, condition)).order_by(*order))
    return _tiles(session, project_id, rows.all())


@dataclass(frozen=True)
class Choice:
    """A graph that can be chosen, with its variants as id and name."""

    id: int
    title: str
    variants: list[list[str]]


def of_kinds(session: Session, project_id: int, kinds: Iterable[str]) -> list[Choice]:
    """All graphs of some kinds, by title."""
    return _choices(session, _of(project_id, GraphRow.motif.is_(None), GraphRow.kind.in_(list(kinds))))


def emitting(session: Session, project_id: int) -> list[Choice]:
    """All graphs with an emitter that is on, by title."""
    rate, burst = (GraphRow.document["emitter"][key].as_float() for key in ("rate", "burst"))
    return _choices(session, _of(project_id, GraphRow.motif.is_(None), or_(rate > 0.0, burst > 0.0)))


def _choices(session: Session, found: ColumnElement[bool]) -> list[Choice]:
    rows = session.execute(
        select(GraphRow.id, GraphRow.title, GraphRow.variants)
        .where(found)
        .order_by(func.lower(GraphRow.title), GraphRow.id)
    )
    return [Choice(*row) for row in rows.tuples()]
