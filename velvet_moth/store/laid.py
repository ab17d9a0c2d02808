"""What many strokes on a mesh have made, kept so that a painted step opens at once after a restart."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import Engine, delete, select
from sqlalchemy.orm import Session

from velvet_moth.store.models import LaidRow

Painted = NDArray[np.float32]
# Of each place that is painted.
_WIDTH = 4


@dataclass(eq=False)
class LaidOnMesh:
    """What is kept of a mesh: ``known`` by the count of strokes and their key; ``new`` was made since, and is not kept yet."""

    engine: Engine
    mesh: str
    known: list[tuple[int, str]]
    new: dict[str, tuple[int, Painted]] = field(default_factory=dict)
    used: set[str] = field(default_factory=set)

    @classmethod
    def of(cls, session: Session, mesh: str) -> "LaidOnMesh":
        rows = session.execute(select(LaidRow.count, LaidRow.key).where(LaidRow.mesh == mesh)).all()
        return cls(session.get_bind().engine, mesh, sorted(((count, key) for count, key in rows), reverse=True))

    def find(self, most: int, key_of: Callable[[int], str]) -> tuple[int, Painted] | None:
        for count, key in self.known:
            if count <= most and key_of(count) == key:
                with Session(self.engine) as session:
                    row = session.get(LaidRow, (self.mesh, key))
                    if row is not None:
                        self.used.add(key)
                        return count, np.frombuffer(row.data, dtype="<f4").reshape(-1, _WIDTH)
        return None

    def made(self, count: int, key: str, painted: Painted) -> None:
        self.used.add(key)
        if (count, key) not in self.known:
            self.new[key] = (count, painted)

    def keep(self, session: Session) -> None:
        """Keeps what was made, in the place of what was of no use any more."""
        if not self.new:
            return
        session.execute(delete(LaidRow).where(LaidRow.mesh == self.mesh, LaidRow.key.not_in(self.used)))
        for key, (count, painted) in self.new.items():
            data = np.ascontiguousarray(painted, dtype="<f4").tobytes()
            session.merge(LaidRow(mesh=self.mesh, key=key, count=count, data=data))
