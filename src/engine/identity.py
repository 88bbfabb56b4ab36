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


PRODUCT = "0.8.0"
ENGINE = Identity("1.3.8", "7d9d55252840d61032cae1a1e026ca8847f14982beb0e020867473c91e0539db")
METHOD = Identity("6.3.9", "d295c7a38df237868781fad1322a071eca238b647819c9deadaec99f9c3cdb2b")
