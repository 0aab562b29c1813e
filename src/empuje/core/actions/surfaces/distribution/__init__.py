"""How a load on a surface is distributed to the members and nodes that carry it."""
