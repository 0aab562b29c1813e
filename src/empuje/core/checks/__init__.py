"""Checks of members by code: functions of arrays, their clauses in the docstrings."""
