"""Steel members by code: their lengths and restraints, demands, strengths, and how much of these is used."""
