"""Wind by code."""
