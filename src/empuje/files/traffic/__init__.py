"""Vehicles, the ways they take, and cranes."""
