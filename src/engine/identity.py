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
ENGINE = Identity("1.2.1", "968408012515c04eb56a2aa026b2f1814409c217bf3594bc85f6f287dd52cc9a")
METHOD = Identity("5.0.4", "c9606f7a997e97395c3bc25fe7db675e77cf97b0faca37496f2a6ea3bb220c92")
