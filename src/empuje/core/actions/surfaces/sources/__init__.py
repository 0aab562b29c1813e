"""From loads on surfaces to plain loads with their sources, and what there is to say about them."""
