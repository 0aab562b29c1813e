"""EN 1993-1-1:2005, with the recommended values unless others are given."""
