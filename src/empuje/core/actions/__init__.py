"""Actions: each turns part of what the engineer wrote into plain loads, with sources and findings."""
