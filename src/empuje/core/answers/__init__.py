"""What the engineer asks of a solution: reactions, balance, forces, displacements, envelopes."""
