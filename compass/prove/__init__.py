"""What the work has left, held against the limits and against what was foretold."""
