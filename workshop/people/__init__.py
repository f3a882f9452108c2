"""People: sign-in, preferences, roles."""
