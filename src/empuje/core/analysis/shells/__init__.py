"""Flat shells: the stiffness of structural surfaces, and the forces in them."""
