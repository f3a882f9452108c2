"""The Prepare leg: limits in force, the set-up to be confirmed."""
