"""What this process keeps in memory, and how much it may keep."""

from flask import Blueprint

from velvet_moth.core.base.cache import cache_states
from velvet_moth.web.api.answers import Caches
from velvet_moth.web.api.contract import takes

api = Blueprint("caches", __name__, url_prefix="/api/caches")


@api.get("")
@takes()
def states() -> Caches:
    """Every cache with its bound and what it holds, by name."""
    return {"caches": cache_states()}
