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
METHOD = Identity("6.10.4", "ff33a84df97b0bb5d6480d54e39ff385dc5f74fa1863ce9057021e6370ab2e73")
