"""Simulated corners, vehicles and road tests with a hidden truth."""
