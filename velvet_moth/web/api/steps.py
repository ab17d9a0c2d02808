"""Steps of a history as pages list them."""

from collections.abc import Sequence

from velvet_moth.store.steps import MadeStep
from velvet_moth.web.api.answers import Step


def steps_state(found: Sequence[MadeStep]) -> list[Step]:
    """Steps as a page lists them."""
    return [{"number": s.number, "words": s.words, "made": s.made.isoformat(), "done": s.is_done} for s in found]
