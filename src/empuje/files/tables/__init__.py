"""Tables beside a model: sheets, heads, numbers as an office writes them, rows as entries."""
