"""The Cause leg: weighed causes, road test."""
