"""What traffic makes of any result of a frame: from unit loads on its ways to the worst position."""
