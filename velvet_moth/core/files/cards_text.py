"""Copied cards as text, so that they can be carried between graphs, windows and messages.

The text is JSON with the nodes, parameters and frames of a graph file.
"""

from collections.abc import Mapping
from dataclasses import dataclass

from velvet_moth.core.base.errors import FileRefused
from velvet_moth.core.base.records import parsed, read
from velvet_moth.core.document.graph import Node
from velvet_moth.core.document.marks import Frame
from velvet_moth.core.files.document import MARKS, NODES, PARAMETERS
from velvet_moth.core.files.graph_json import VERSION
from velvet_moth.core.files.upgrades import upgraded
from velvet_moth.core.operations import AddParameter

FORMAT = "velvet-moth-cards"
MOST_CHARACTERS = 4_000_000
_WHERE = "copied text"


@dataclass(frozen=True)
class Cards:
    """Nodes with the parameters they open and the frames around them."""

    nodes: tuple[Node, ...]
    parameters: tuple[AddParameter, ...] = ()
    frames: tuple[Frame, ...] = ()


def read_cards(text: str) -> Cards:
    """The cards in a copied text; FileRefused says what is wrong with it."""
    mend = "Copy cards of a graph first, then paste them here."
    if len(text) > MOST_CHARACTERS:
        raise FileRefused("The copied text is too long.", _WHERE, "Copy fewer cards at once.")
    try:
        data = parsed(text, _WHERE, mend)
    except FileRefused as error:
        raise FileRefused("The copied text holds no cards.", _WHERE, mend) from error
    if not isinstance(data, Mapping) or data.get("format") != FORMAT:
        raise FileRefused("The copied text holds no cards.", _WHERE, mend)
    version = data.get("version")
    if isinstance(version, bool) or not isinstance(version, int) or not 2 <= version <= VERSION:
        raise FileRefused(f"The cards have version {version!r}; this program reads up to {VERSION}.", _WHERE, mend)
    fields = upgraded(data, version)
    nodes = read(NODES, fields.get("nodes"), f"{_WHERE}/nodes")
    parameters = read(PARAMETERS, fields.get("parameters", []), f"{_WHERE}/parameters")
    marks = read(MARKS, fields.get("marks", []), f"{_WHERE}/marks")
    return Cards(
        nodes, tuple(AddParameter(one) for one in parameters), tuple(one for one in marks if isinstance(one, Frame))
    )
