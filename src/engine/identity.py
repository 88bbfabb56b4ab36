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


PRODUCT = "0.10.0"
ENGINE = Identity("1.6.7", "d664610e003e136d55cb6f9698c162e21e1bc9ee019d38cab136ed5f5c1560c1")
METHOD = Identity("6.6.1", "2261f811aa46b6d6d1b76cfd1c3d5ff00d8c7f79c026726ffac42af59580b135")
