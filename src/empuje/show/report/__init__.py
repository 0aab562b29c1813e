"""A report as plain blocks, and what it looks like as a page and on paper."""
