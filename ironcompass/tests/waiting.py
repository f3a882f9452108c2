"""How long tests wait for what is sure to come. Servers of tests read it too, without the application."""

from typing import Final

PATIENCE_S: Final = 60.0
"""A busy machine takes its time; who comes sooner is not kept."""
