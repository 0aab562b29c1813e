"""From what was written to everything that follows from it, made once."""
