"""Model files and tables in and out: quantities, grids, runs, selectors, line numbers."""
