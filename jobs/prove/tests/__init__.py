"""Tests of the Prove leg."""
