"""Models that come with Empuje, as files."""
