"""Sections and materials: dimensions in data files, properties computed."""
