"""How dates and times are written, by language. Templates name these formats, never the letters they are made of."""
