"""Bridge cranes: their states of loading by code, each a vehicle."""
