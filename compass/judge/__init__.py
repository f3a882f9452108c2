"""What all corners of a vehicle say together: each one's root cause, which is troubled, and what to do next."""
