"""The standard's own library of nodes, and what it says of a document."""

from functools import lru_cache

import MaterialX


@lru_cache(maxsize=1)
def standard_library() -> MaterialX.Document:
    """Every node of the standard, as its own package ships them; it must not be changed."""
    library = MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), library)
    return library


def new_document() -> MaterialX.Document:
    """An empty document that knows the standard's nodes without holding them."""
    document = MaterialX.createDocument()
    document.setDataLibrary(standard_library())
    return document


def faults_of(document: MaterialX.Document) -> str:
    """What is wrong with a document by the standard's own check; empty for nothing."""
    is_valid, words = document.validate()
    if not is_valid:
        return str(words).strip()
    # It takes nodes that nobody declares.
    nodes = [*document.getNodes(), *(node for inside in document.getNodeGraphs() for node in inside.getNodes())]
    unknown = [node.getName() for node in nodes if node.getNodeDef() is None]
    return f"No library declares {', '.join(unknown[:3])}." if unknown else ""
