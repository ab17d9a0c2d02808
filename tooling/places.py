"""Where things lie in this checkout and on this machine."""

import hashlib
import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WORK = ROOT / ".moth"
STAMPS = WORK / "stamps"
# Files the application made, which it need not make again at its next start.
MADE_FILES = WORK / "made_files"
VENV = ROOT / ".venv"
PYTHON = VENV / "bin" / "python"
STATIC = ROOT / "velvet_moth" / "web" / "static"
IS_ROOT = os.geteuid() == 0


def cluster_folder() -> Path:
    """The folder of this checkout's database cluster.

    PostgreSQL refuses to run as root and its own user may not enter /root, so a root start keeps
    the data under /var/lib instead of in the checkout. MOTH_DATA in the environment names another place.
    """
    if os.environ.get("MOTH_DATA"):
        return Path(os.environ["MOTH_DATA"]).resolve()
    if IS_ROOT:
        mark = hashlib.sha256(str(ROOT).encode()).hexdigest()[:12]
        return Path("/var/lib/velvet-moth") / mark
    return WORK / "postgres"
