"""Answers of pure functions, remembered in this process by a digest of what they were asked."""

import hashlib
import pickle
from collections.abc import Callable, Hashable
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any, Generic, TypeVar

Answer = TypeVar("Answer")


def digest(*evidence: Any) -> str:
    """Return what names evidence: no two that differ share a name, and what one process reads twice keeps its own.

    Another process may name the same evidence otherwise (sets have no order of their own): then it is worked out again.
    """
    return hashlib.sha256(pickle.dumps(evidence, protocol=pickle.HIGHEST_PROTOCOL)).hexdigest()


@dataclass(frozen=True)
class _Asked:
    name: Hashable
    evidence: tuple[Any, ...] = field(compare=False)


class Remembered(Generic[Answer]):
    """A pure function that works each answer out once, however often it is asked; ``most`` answers are kept."""

    def __init__(self, work: Callable[..., Answer], *, most: int) -> None:
        self._answer = lru_cache(maxsize=most)(lambda question: work(*question.evidence))
        self.forget = self._answer.cache_clear

    def __call__(self, *evidence: Any, name: Hashable = None) -> Answer:
        """Return the answer to ``evidence``; ``name`` is its digest where that is known already."""
        return self._answer(_Asked(name or digest(*evidence), evidence))
