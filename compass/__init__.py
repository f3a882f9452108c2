"""The computation of Iron Compass: dial readings in, verdicts out.

Pure Python and numpy. Knows nothing of Django, of files it was not handed, of the clock or of settings.
Lengths are millimetres and angles degrees at every public boundary (see ``compass.ground.angles``).
"""

__version__ = "0.11.0"
