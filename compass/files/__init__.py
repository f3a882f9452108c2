"""Case files and verdicts: JSON in and out."""
