"""Steel members held against a code: lengths, demands, and how much of each resistance they use."""
