"""What a server's process does. It imports the application alone, for the process that servers are forked from."""

import os
from multiprocessing.connection import Connection

from velvet_moth.web.serve import main


def served_by(said: Connection, *given: str) -> None:
    """Serves as a start command does, and says where through ``said``."""
    os.dup2(said.fileno(), 1)
    said.close()
    main(*given)
