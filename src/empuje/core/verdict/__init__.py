"""The verdict: limits of a model, and what its results make of them."""
