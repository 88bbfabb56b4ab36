"""Typed warnings that a result carries with it."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Caveat:
    """A limit of a result: a stable ``code`` and a sentence a person can act on."""

    code: str
    text: str
