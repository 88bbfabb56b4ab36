"""What a start is still loading in the background, in words for the first page; empty when all is there."""

_words = ""


def say(words: str) -> None:
    global _words
    _words = words


def words() -> str:
    return _words
