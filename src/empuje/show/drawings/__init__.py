"""Drawings: sheets as plain data in metres, what is drawn on each, and the paper that alone knows Matplotlib."""
