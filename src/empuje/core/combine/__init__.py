"""How cases are combined."""
