"""From estimates to what is to blame."""
