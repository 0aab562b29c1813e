"""Surfaces as they lie: planes, the members in them, bays and decks. Everything here comes before any load."""
