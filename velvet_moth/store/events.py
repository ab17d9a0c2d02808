"""News of changed graphs and textures, told by the database to every process once the change is committed."""

import json
from collections.abc import Iterator
from dataclasses import asdict, dataclass

import psycopg
from sqlalchemy import text
from sqlalchemy.orm import Session

CHANNEL = "graph_changed"


@dataclass(frozen=True)
class News:
    """A graph has a new revision; ``motif`` is the type of its uses where it is a motif. Or a texture, mesh, stack, rule or block model has one."""

    graph: int = 0
    revision: int = 0
    motif: str = ""
    words: str = ""
    texture: str = ""
    stack: int = 0
    mesh: str = ""
    mesh_stack: int = 0
    job: int = 0
    rule: int = 0
    blocks: int = 0


def announce(session: Session, news: News) -> None:
    """Told when the transaction commits, and never if it does not."""
    session.execute(text("select pg_notify(:channel, :news)"), {"channel": CHANNEL, "news": json.dumps(asdict(news))})


def listen(address: str, patience: float) -> Iterator[News | None]:
    """News as they come, or None each time ``patience`` seconds pass without any. Holds one connection."""
    with psycopg.connect(address, autocommit=True) as connection:
        connection.execute(f"listen {CHANNEL}")
        yield None
        while True:
            quiet = True
            for found in connection.notifies(timeout=patience, stop_after=1):
                quiet = False
                yield News(**json.loads(found.payload))
            if quiet:
                yield None
