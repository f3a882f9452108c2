"""From readings to estimates."""
