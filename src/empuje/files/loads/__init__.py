"""Cases, loads on members, nodes and surfaces, build-ups of floors, reduced live loads."""
