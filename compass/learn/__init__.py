"""What the workshop's own closed jobs teach: figures refitted from its pairs, odds held against what came."""
