"""Snow as a model file states it."""
