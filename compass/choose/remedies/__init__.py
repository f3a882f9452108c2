"""What each remedy would leave of a corner: one module a remedy, vectorised draws in, outcomes out."""
