"""Finding nodes by what people type: names, trade words, needs, names of inputs, all forgiving slips of the finger."""

from collections import Counter
from collections.abc import Collection
from dataclasses import dataclass
from functools import lru_cache

from rapidfuzz import process
from rapidfuzz.distance import OSA

from velvet_moth.core.catalogue.registry import CATALOGUE, NodeType


@dataclass(frozen=True)
class Hit:
    """A node found by a search, and the words by which it matched."""

    node: NodeType
    why: str
    score: int


@dataclass(frozen=True)
class _Text:
    """One thing a node is found by: what is typed, why it matches, how much it counts."""

    text: str
    why: str
    weight: int


# A word of so many letters may have a slip, a longer one two.
_ONE_SLIP, _TWO_SLIPS = 4, 8
# Words that say nothing by themselves.
_EMPTY = frozenset({"a", "an", "the", "of", "to", "in", "on", "by", "for", "is", "it", "and", "or", "with", "my"})
# A port of so many nodes says nothing of one of them.
_COMMON = 6


def _ports(node: NodeType) -> set[str]:
    return {p.name for p in node.inputs.values() if not p.reads} | {p.name for p in node.outputs.values()}


def _texts(node: NodeType, common: Collection[str]) -> tuple[_Text, ...]:
    return (
        _Text(node.name.lower(), "", 100),
        *(_Text(s.lower(), f"also called {s}", 70) for s in node.synonyms),
        *(_Text(s.lower(), f"to {s}", 50) for s in node.needs),
        *(_Text(name.lower(), f"has {name}", 40) for name in sorted(_ports(node) - set(common))),
        _Text(node.group.lower(), f"in {node.group}", 30),
        _Text(node.help.sentence.lower(), node.help.sentence, 20),
    )


@dataclass(frozen=True)
class _Index:
    """All that nodes are found by, and every word of it, those of sentences left out."""

    entries: tuple[tuple[NodeType, tuple[_Text, ...]], ...]
    words: tuple[str, ...]


def _index() -> _Index:
    return _index_of(tuple((n.key, n.name, n.synonyms, n.needs) for n in CATALOGUE.values() if not n.hidden))


@lru_cache(maxsize=2)
def _index_of(nodes: tuple[tuple[str, str, tuple[str, ...], tuple[str, ...]], ...]) -> _Index:
    known = [CATALOGUE[key] for key, *_ in nodes]
    counts = Counter(name for node in known for name in _ports(node))
    common = {name for name, count in counts.items() if count >= _COMMON}
    entries = tuple((node, _texts(node, common)) for node in known)
    return _Index(entries, _words(entries))


def _words(entries: tuple[tuple[NodeType, tuple[_Text, ...]], ...]) -> tuple[str, ...]:
    found = {word.strip(".,;:()") for _, texts in entries for t in texts if t.weight > 20 for word in t.text.split()}
    return tuple(sorted(word for word in found if len(word) >= _ONE_SLIP - 1))


def _spellings(word: str) -> list[str]:
    """The word as it may have been meant: each known word that is a slip or two away, the nearest first."""
    if len(word) < _ONE_SLIP:
        return []
    slips = 1 if len(word) < _TWO_SLIPS else 2
    near = process.extract(word, _index().words, scorer=OSA.distance, score_cutoff=slips, limit=4)
    return [spelled for spelled, _, _ in near]


def _best(node: NodeType, texts: tuple[_Text, ...], query: str, words: list[str]) -> Hit | None:
    """The text of a node that says it all; else, where its texts do so together, its sentence."""
    best: Hit | None = None
    for one in texts:
        if all(word in one.text for word in words):
            score = one.weight + (40 if one.text.startswith(query) else 0) - min(len(one.text), 30)
            if best is None or score > best.score:
                best = Hit(node, one.why, score)
    if best is None and words and all(any(word in one.text for one in texts) for word in words):
        best = Hit(node, node.help.sentence, 0)
    return best


def _found(query: str, words: list[str]) -> list[Hit]:
    hits = [hit for node, texts in _index().entries if (hit := _best(node, texts, query, words))]
    return sorted(hits, key=lambda h: (-h.score, h.node.name)) if words else sorted(hits, key=lambda h: h.node.name)


def search(query: str) -> list[Hit]:
    """Nodes by name, other word, need, input, group or sentence; every word must be found, the best match first.

    Where nothing has them all as they are typed, slips are forgiven; then what most of the words say is enough.
    """
    words = query.lower().split()
    hits = _found(query.lower().strip(), words)
    telling = [w for w in words if w not in _EMPTY]
    if hits or not telling:
        return hits
    meant = [w if _found(w, [w]) else next(iter(_spellings(w)), w) for w in telling]
    hits = _found(" ".join(meant), meant)
    return hits or _by_most_words([w for w in meant if len(w) >= _ONE_SLIP])


def _by_most_words(words: list[str]) -> list[Hit]:
    """Nodes that have at least half of several words in what they are called or wanted for."""
    hits = []
    for node, texts in _index().entries:
        strong = [one for one in texts if one.weight >= 40]
        matched = [[one for one in strong if word in one.text] for word in words]
        count = sum(bool(found) for found in matched)
        if count * 2 >= len(words) > 1 and count:
            best = max((one for found in matched for one in found), key=lambda one: one.weight)
            hits.append(Hit(node, best.why, count * 100 + best.weight))
    return sorted(hits, key=lambda h: (-h.score, h.node.name))
