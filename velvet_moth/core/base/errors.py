"""Typed errors. Each says what is wrong, where, and how to mend it, in words an artist can use."""

LONGEST_SENTENCE = 600


def shown(text: str) -> str:
    """A sentence that may quote anything: what cannot be shown is a question mark, and it ends somewhere."""
    clean = text if text.isprintable() else "".join(c if c.isprintable() else "?" for c in text)
    return clean if len(clean) <= LONGEST_SENTENCE else f"{clean[:LONGEST_SENTENCE]} …"


class MothError(Exception):
    """Base of all expected errors.

    ``code`` is a stable word for programs; ``what``, ``where`` and ``mend`` are sentences for people.
    """

    code = "error"

    def __init__(self, what: str, where: str = "", mend: str = "") -> None:
        super().__init__(what)
        self.what = shown(what)
        self.where = shown(where)
        self.mend = shown(mend)

    def __str__(self) -> str:
        return " ".join(part for part in (self.what, self.where and f"({self.where})", self.mend) if part)


class OperationRefused(MothError):
    """An edit that the graph cannot take; the graph is unchanged."""

    code = "operation-refused"


class FileRefused(MothError):
    """A file that cannot be read as what it claims to be."""

    code = "file-refused"


class ExpressionError(MothError):
    """Expressions put together against their type rules: a fault of a node's author, not of the artist."""

    code = "expression-error"
