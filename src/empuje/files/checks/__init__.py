"""What is asked of a model: limits, steel members by code, accepted findings, the report."""
