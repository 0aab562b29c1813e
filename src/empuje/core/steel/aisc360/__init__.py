"""ANSI/AISC 360-22, by strength (LRFD) or by allowable strength (ASD)."""
