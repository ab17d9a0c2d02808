"""The tables."""

import secrets
from datetime import datetime
from typing import Any

from sqlalchemy import (
    BigInteger,
    DateTime,
    ForeignKey,
    Index,
    LargeBinary,
    SmallInteger,
    String,
    UniqueConstraint,
    func,
)
from sqlalchemy.dialects.postgresql import ARRAY, JSONB
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from velvet_moth.core.meshes.orient import Unit, Up
from velvet_moth.core.pictures.reading import Green, RoleKey


def new_state() -> str:
    return secrets.token_hex(8)


class Base(DeclarativeBase):
    """All tables of the application."""


class Project(Base):
    """A project: graphs and textures that belong together."""

    __tablename__ = "projects"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str] = mapped_column(String(80), unique=True)


class EditedRow(Base):
    """What every row has whose document changes by operations: its undo and redo stacks are numbers of revisions."""

    __abstract__ = True

    id: Mapped[int] = mapped_column(primary_key=True)
    revision: Mapped[int] = mapped_column(default=0)
    undo: Mapped[list[int]] = mapped_column(ARRAY(BigInteger), default=list)
    redo: Mapped[list[int]] = mapped_column(ARRAY(BigInteger), default=list)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    changed: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    deleted: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class EditRow(Base):
    """One applied change: what was done, what undoes it, and in words. ``kind`` is edit, undo, redo or jump."""

    __abstract__ = True

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    number: Mapped[int]
    kind: Mapped[str] = mapped_column(String(8))
    operation: Mapped[dict[str, Any]] = mapped_column(JSONB)
    inverse: Mapped[dict[str, Any]] = mapped_column(JSONB)
    words: Mapped[str] = mapped_column(String(400))
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class NamedRow(Base):
    """What every row has of a thing that was brought into a project. ``revision`` counts its changes, which every use follows."""

    __abstract__ = True

    id: Mapped[str] = mapped_column(String(32), primary_key=True)
    name: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int] = mapped_column(default=0)
    created: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    deleted: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class GraphRow(EditedRow):
    """A graph as it stands.

    ``motif`` is the type of the nodes that use it, where it is a motif. ``state`` is a random word that no other state of
    any graph has. What lists need is in columns: how many ``nodes`` it has besides the dock, its ``variants`` as id and
    name, its ``kind``, the types that it ``uses`` and the catalogue has not, the textures that it ``reads`` itself, the graphs
    that its backdrop shows (``backdrop_graphs``), the ``mesh`` it stands on ("" for a form), its ``tags``, and the ``trouble`` that there is with reading it (None where nobody has looked yet).
    """

    __tablename__ = "graphs"
    __table_args__ = (
        UniqueConstraint("project_id", "motif", name="one_motif_a_type"),
        Index("graphs_by_change", "project_id", "changed", "id"),
        Index("graphs_by_tag", "tags", postgresql_using="gin"),
        Index("graphs_by_mesh", "mesh"),
    )

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), index=True)
    title: Mapped[str] = mapped_column(String(80))
    motif: Mapped[str | None] = mapped_column(String(32))
    state: Mapped[str] = mapped_column(String(32), default=new_state)
    nodes: Mapped[int] = mapped_column(default=0)
    variants: Mapped[list[list[str]]] = mapped_column(JSONB, default=list)
    kind: Mapped[str] = mapped_column(String(32), default="solid")
    uses: Mapped[list[str]] = mapped_column(ARRAY(String(64)), default=list)
    reads: Mapped[list[str]] = mapped_column(ARRAY(String(64)), default=list)
    backdrop_graphs: Mapped[list[str]] = mapped_column(ARRAY(String(64)), default=list)
    tags: Mapped[list[str]] = mapped_column(ARRAY(String(64)), default=list)
    mesh: Mapped[str] = mapped_column(String(32), default="")
    trouble: Mapped[str | None] = mapped_column(String(600))
    # Read only where the document is not known from before: it is by far the largest part of a row.
    document: Mapped[dict[str, Any]] = mapped_column(JSONB, deferred=True)


class RevisionRow(EditRow):
    """One applied change of a graph."""

    __tablename__ = "revisions"
    __table_args__ = (UniqueConstraint("graph_id", "number"),)

    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"))


class PaintedRow(Base):
    """A picture of a state of a graph as PNG, and the program that painted it."""

    __tablename__ = "painted_pictures"

    state: Mapped[str] = mapped_column(String(64), primary_key=True)
    program: Mapped[str] = mapped_column(String(16), primary_key=True)
    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"), index=True)
    png: Mapped[bytes] = mapped_column(LargeBinary)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class VersionRow(Base):
    """A state of a graph kept under a name."""

    __tablename__ = "versions"
    __table_args__ = (UniqueConstraint("graph_id", "name"),)

    id: Mapped[int] = mapped_column(primary_key=True)
    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"))
    name: Mapped[str] = mapped_column(String(80))
    revision: Mapped[int]
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class BlobRow(Base):
    """Bytes by their SHA-256, kept once."""

    __tablename__ = "blobs"

    sha256: Mapped[str] = mapped_column(String(64), primary_key=True)
    size: Mapped[int] = mapped_column(BigInteger)


class BlobChunkRow(Base):
    """A piece of such bytes, the first with number 0."""

    __tablename__ = "blob_chunks"

    sha256: Mapped[str] = mapped_column(ForeignKey("blobs.sha256", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class LevelsRow(Base):
    """The levels after the first of a file read one ``way``, one after the other, as the bytes of a blob."""

    __tablename__ = "levels"

    sha256: Mapped[str] = mapped_column(ForeignKey("blobs.sha256", ondelete="CASCADE"), primary_key=True)
    way: Mapped[str] = mapped_column(String(16), primary_key=True)
    levels: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))


class RecipeRow(EditedRow):
    """A stack of steps that makes textures. Those there are come from ``made``: the document when they were last made."""

    __tablename__ = "recipes"

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    name: Mapped[str] = mapped_column(String(80))
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    made: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class RecipeRevisionRow(EditRow):
    """One applied change of a stack."""

    __tablename__ = "recipe_revisions"
    __table_args__ = (UniqueConstraint("recipe_id", "number"),)

    recipe_id: Mapped[int] = mapped_column(ForeignKey("recipes.id", ondelete="CASCADE"))


class TextureRow(NamedRow):
    """A texture: a picture file, and how it is read. One that was made is the ``output`` of a recipe.

    One that follows a mesh says in ``baked`` what it holds of it: its ``mesh``, and what ``mesh_texture`` jobs take. One that is a
    sheet says in ``frames`` how many columns and rows of frames it has, and how many are played a second.
    """

    __tablename__ = "textures"
    __table_args__ = (Index("textures_by_content", "project_id", "sha256", "role"),)

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    role: Mapped[RoleKey] = mapped_column(String(8))
    width: Mapped[int]
    height: Mapped[int]
    sha256: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))
    format: Mapped[str] = mapped_column(String(8))
    channels: Mapped[int]
    depth: Mapped[str] = mapped_column(String(8))
    green: Mapped[Green] = mapped_column(String(4), default="up")
    recipe_id: Mapped[int | None] = mapped_column(ForeignKey("recipes.id"))
    output: Mapped[str | None] = mapped_column(String(32))
    baked: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    frames: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))
    deleted: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))


class MeshRow(NamedRow):
    """A mesh: its files, the main one first, as name and hash; how they are read; what was found out about it.

    ``base`` is the mesh as it came in, ``packed`` what its stack has made of it, which the stage draws. ``channels`` are the
    numbers at its vertices by their places, each with what it means, which may be empty; a place that is not there is not carried. ``levels`` are its levels of detail, the nearest first, each with
    the hash of its packed mesh.
    """

    __tablename__ = "meshes"

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"), index=True)
    format: Mapped[str] = mapped_column(String(8))
    files: Mapped[list[list[str]]] = mapped_column(JSONB)
    up: Mapped[Up] = mapped_column(String(1))
    unit: Mapped[Unit] = mapped_column(String(2))
    smooth_below: Mapped[float]
    notes: Mapped[list[str]] = mapped_column(ARRAY(String(400)))
    facts: Mapped[dict[str, Any]] = mapped_column(JSONB)
    has_uvs: Mapped[bool]
    depth: Mapped[str] = mapped_column(String(8))
    base: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))
    packed: Mapped[str] = mapped_column(ForeignKey("blobs.sha256"))
    channels: Mapped[dict[str, str]] = mapped_column(JSONB, default=dict)
    levels: Mapped[list[dict[str, Any]]] = mapped_column(JSONB, default=list)


class LaidRow(Base):
    """What the first ``count`` strokes of a painted step have made of a mesh, by a key of all that it depends on."""

    __tablename__ = "laid_strokes"

    mesh: Mapped[str] = mapped_column(ForeignKey("meshes.id", ondelete="CASCADE"), primary_key=True)
    key: Mapped[str] = mapped_column(String(64), primary_key=True)
    count: Mapped[int]
    data: Mapped[bytes]


class FilmRow(Base):
    """A film of a graph, kept for a while: what was filmed, what is said of its loop, and its bytes in chunks."""

    __tablename__ = "films"

    id: Mapped[str] = mapped_column(String(16), primary_key=True, default=new_state)
    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"), index=True)
    name: Mapped[str] = mapped_column(String(80))
    film: Mapped[dict[str, Any]] = mapped_column(JSONB)
    words: Mapped[str] = mapped_column(String(400))
    size: Mapped[int] = mapped_column(BigInteger)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class FilmChunkRow(Base):
    """A piece of a film."""

    __tablename__ = "film_chunks"

    film_id: Mapped[str] = mapped_column(ForeignKey("films.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class RuleRow(EditedRow):
    """A rule of placing, which graphs name by its id."""

    __tablename__ = "rules"

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    name: Mapped[str] = mapped_column(String(80))
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)


class RuleRevisionRow(EditRow):
    """One applied change of a rule."""

    __tablename__ = "rule_revisions"
    __table_args__ = (UniqueConstraint("rule_id", "number"),)

    rule_id: Mapped[int] = mapped_column(ForeignKey("rules.id", ondelete="CASCADE"))


class BlockModelRow(EditedRow):
    """A block model without its cells.

    ``count`` is how many are filled; ``state`` is a random word that no other state of any model has.
    ``mesh`` is the kept mesh that follows its surface; "" where nobody has asked for one.
    """

    __tablename__ = "block_models"

    project_id: Mapped[int] = mapped_column(ForeignKey("projects.id"))
    name: Mapped[str] = mapped_column(String(80))
    state: Mapped[str] = mapped_column(String(32), default=new_state)
    settings: Mapped[dict[str, Any]] = mapped_column(JSONB)
    count: Mapped[int] = mapped_column(default=0)
    mesh: Mapped[str] = mapped_column(String(32), default="")


class BlockChunkRow(Base):
    """A chunk of a model that is not empty, by its place, as packed bytes."""

    __tablename__ = "block_chunks"

    model_id: Mapped[int] = mapped_column(ForeignKey("block_models.id", ondelete="CASCADE"), primary_key=True)
    x: Mapped[int] = mapped_column(SmallInteger, primary_key=True)
    y: Mapped[int] = mapped_column(SmallInteger, primary_key=True)
    z: Mapped[int] = mapped_column(SmallInteger, primary_key=True)
    data: Mapped[bytes] = mapped_column(LargeBinary)


class BlockRevisionRow(EditRow):
    """One applied change of a block model."""

    __tablename__ = "block_revisions"
    __table_args__ = (UniqueConstraint("model_id", "number"),)

    model_id: Mapped[int] = mapped_column(ForeignKey("block_models.id", ondelete="CASCADE"))


class JudgementRow(Base):
    """What was found out by many throws at the scene of a graph, kept for a while: in numbers, and as a sheet of outlines (PNG)."""

    __tablename__ = "judgements"

    id: Mapped[str] = mapped_column(String(16), primary_key=True, default=new_state)
    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"), index=True)
    found: Mapped[dict[str, Any]] = mapped_column(JSONB)
    sheet: Mapped[bytes] = mapped_column(LargeBinary)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class BakedFileRow(Base):
    """A graph baked for other programs, kept for a while: what was asked and found, the GLB, and a PNG of it beside the graph."""

    __tablename__ = "baked_files"

    id: Mapped[str] = mapped_column(String(16), primary_key=True, default=new_state)
    graph_id: Mapped[int] = mapped_column(ForeignKey("graphs.id", ondelete="CASCADE"), index=True)
    found: Mapped[dict[str, Any]] = mapped_column(JSONB)
    data: Mapped[bytes] = mapped_column(LargeBinary)
    sides: Mapped[bytes] = mapped_column(LargeBinary)
    made: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())


class MeshStackRow(EditedRow):
    """The stack of steps on a mesh. What is drawn of the mesh comes from ``made``: the document when it was last baked."""

    __tablename__ = "mesh_stacks"

    mesh: Mapped[str] = mapped_column(ForeignKey("meshes.id"), unique=True)
    document: Mapped[dict[str, Any]] = mapped_column(JSONB)
    made: Mapped[dict[str, Any] | None] = mapped_column(JSONB(none_as_null=True))


class MeshStackRevisionRow(EditRow):
    """One applied change of the stack of a mesh."""

    __tablename__ = "mesh_stack_revisions"
    __table_args__ = (UniqueConstraint("stack_id", "number"),)

    stack_id: Mapped[int] = mapped_column(ForeignKey("mesh_stacks.id", ondelete="CASCADE"))


class JobRow(Base):
    """Long work as pages see it: of which ``kind``, on which ``subject``, how far it is (``share``), how it ended.

    ``state`` is waiting, running, done, failed or cancelled; ``words`` say why it failed.
    """

    __tablename__ = "jobs"

    id: Mapped[int] = mapped_column(BigInteger, primary_key=True)
    kind: Mapped[str] = mapped_column(String(32))
    title: Mapped[str] = mapped_column(String(120))
    subject: Mapped[str] = mapped_column(String(32))
    arguments: Mapped[dict[str, Any]] = mapped_column(JSONB)
    state: Mapped[str] = mapped_column(String(12), index=True)
    share: Mapped[float]
    words: Mapped[str] = mapped_column(String(600))
    asked: Mapped[datetime] = mapped_column(DateTime(timezone=True), server_default=func.now())
    started: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
    ended: Mapped[datetime | None] = mapped_column(DateTime(timezone=True))
