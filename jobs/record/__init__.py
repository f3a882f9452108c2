"""Who changed what; files out and in."""
