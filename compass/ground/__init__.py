"""The ground floor: what every room of the core stands on, and what imports nothing of it."""
