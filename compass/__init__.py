"""The computation of Iron Compass: dial readings in, verdicts out.

Pure Python and numpy. Knows nothing of Django, of files it was not handed, of the clock or of settings.
Lengths are millimetres and angles degrees at every public boundary (see ``compass.ground.angles``).
"""

import os

# Our matrices are small: threads of BLAS only wait for each other, and --jobs has a process a core anyway. It counts
# only where numpy is not loaded yet, and whoever has said otherwise is heard.
for _name in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS"):
    os.environ.setdefault(_name, "1")


__version__ = "0.33.0"
