"""Counts of a study's campaigns or runs, added up over the processes that made them."""

from typing import Self


class Adding:
    """A dataclass of counts and lists that can be added to."""

    def add(self, other: Self) -> None:
        for name, value in vars(other).items():
            setattr(self, name, getattr(self, name) + value)
