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
ENGINE = Identity("1.6.15", "17cad48f29d933dd31bbadcbb4892c9fbef6f0537a27995456854631ecb299dc")
METHOD = Identity("6.10.26", "89fa14cb55a61ff56f9260cb9bb21c073f4eea464d8af09d596bb3cf8f20adbd")
