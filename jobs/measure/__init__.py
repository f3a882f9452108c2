"""The Measure leg: tapes, workbench, quick readings, look."""
