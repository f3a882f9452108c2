"""The one keyword that marks a text for translation."""


def gettext_noop(text: str) -> str:
    """Mark a text for translation without translating it."""
    return text


_N = gettext_noop
