"""The simulated corner: how it stands, what is done to it, what is seen of it, what is said of it."""
