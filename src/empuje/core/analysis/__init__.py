"""From plain loads and a frame to displacements, reactions, and exact forces along every member."""
