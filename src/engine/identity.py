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
ENGINE = Identity("1.6.14", "7f3c161ddf5669a31c43952bebeb8bc84b88109541f4eaa4922367f30d003a96")
METHOD = Identity("6.10.3", "cd1e647e23c4c9088d1d139d6a9099470c83e65215630f5f0735ca276439f3b3")
