"""The Choose leg: lanes, decision, a setting tried by hand."""
