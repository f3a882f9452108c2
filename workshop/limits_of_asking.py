"""How often somebody may ask for what is dear: a sign-in by address, a file by person."""

from typing import Final

from django_ratelimit.decorators import ratelimit

# A workshop behind one address signs in at seven in the morning, all at once; a thief tries for hours.
sign_in_limit: Final = ratelimit(group="sign-in", key="ip", rate="60/m", method="POST", block=True)
# One word for all files: it is the machine that is spared.
file_limit: Final = ratelimit(group="files", key="user", rate="20/m", method="POST", block=True)
