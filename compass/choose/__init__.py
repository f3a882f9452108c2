"""What each remedy would leave, and which it is to be."""
