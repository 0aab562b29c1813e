"""Snow by code: roofs and what stands beside them, the codes' shapes, and the cases they make."""
