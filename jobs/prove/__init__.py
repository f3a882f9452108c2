"""The Prove leg: closing."""
