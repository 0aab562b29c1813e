"""Surfaces that are structure: cut into elements, joined with the frame, and loaded."""
