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
ENGINE = Identity("1.3.9", "edcb545f4c3d57198202c15cb2cce021082d69b66ccf628de1c2c5977b0d1315")
METHOD = Identity("6.3.9", "d295c7a38df237868781fad1322a071eca238b647819c9deadaec99f9c3cdb2b")
