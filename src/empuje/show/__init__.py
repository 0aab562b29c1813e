"""Tables, drawings and reports: what the engineer sees."""
