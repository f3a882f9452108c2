"""The simulated lathes: set up, compensate, scratch, zero, cut, measure; what is done badly shows on the disc."""
