"""Drills of judgement: statements with a picture each, repeated when they are about to be forgotten."""
