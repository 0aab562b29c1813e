"""The pressure of the wind over the height, by code."""
