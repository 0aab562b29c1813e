"""Makers: short entries of a model file for many members. Each draws points and lines; every.py lays them."""
