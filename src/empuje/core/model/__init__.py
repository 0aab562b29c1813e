"""What the engineer described, as plain immutable records in SI units (N, m, kg, rad, K)."""
