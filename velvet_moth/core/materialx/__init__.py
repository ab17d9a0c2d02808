"""Material documents of the open standard MaterialX: graphs written to its own nodes, and its documents read as graphs."""
