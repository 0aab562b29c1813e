"""Surfaces: their geometry, how loads on them are distributed, and the plain loads and sources that come of it."""
