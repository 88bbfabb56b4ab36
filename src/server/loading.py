"""What a start is still loading in the background, in words for the first page; empty when all is there."""

from collections.abc import Iterator
from contextlib import contextmanager

_words = ""


@contextmanager
def saying(words: str) -> Iterator[None]:
    """Says ``words`` while something is loaded, and nothing any more when it ended, however it did."""
    global _words
    _words = words
    try:
        yield
    finally:
        _words = ""


def words() -> str:
    return _words
