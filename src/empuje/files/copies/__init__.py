"""Parts of a model that are repeated, with what loads them."""
