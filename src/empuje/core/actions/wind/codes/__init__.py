"""The coefficients of the codes: buildings with walls, and roofs without."""
