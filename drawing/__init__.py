"""Core results into SVG. Knows no request and no database; geometry by attributes and classes only."""
