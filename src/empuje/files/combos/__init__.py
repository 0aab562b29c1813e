"""Combinations, and the files that hold the rules of codes."""
