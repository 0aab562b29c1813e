"""The cases of the wind: what they are called, and the loads that make them."""
