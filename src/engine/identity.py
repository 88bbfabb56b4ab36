"""Who answers: the engine that forecasts, the method that judges runs, and the product; all that is made by them carries the numbers.

``sources`` is the SHA-256 of what the code says, comments and documentation left out, with every fitted parameter in it. A test
fails when the code says something else than it did under this number: raise the number, then ``python tools/identity.py``.
"""

from dataclasses import dataclass


@dataclass(frozen=True)
class Identity:
    number: str
    sources: str

    def __str__(self) -> str:
        return self.number


PRODUCT = "0.7.0"
ENGINE = Identity("1.2.2", "cd0a01ca7c4e646ea48364e1053e08aaeb321f09e59d702d81404a83a445346f")
METHOD = Identity("6.0.5", "2cab33e1e6ac34193bdb0658622a6c09cf70c737fe7e60dad06e492715b8b455")
