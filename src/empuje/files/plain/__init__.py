"""A model written as plain entries: what runs, makers and copies stand for, one by one."""
