"""Moving loads: vehicles, the ways they take, and what members and surfaces get of their wheels."""
