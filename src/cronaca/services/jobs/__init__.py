"""Long work: asked for by people and recorders, done by the worker."""
