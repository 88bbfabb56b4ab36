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
ENGINE = Identity("1.2.6", "5293791fed2b575e177ed904079a1b381fd0fe50b0a3e1bfd641b19c2c9ea373")
METHOD = Identity("6.3.7", "3370df6160fcf9d6487f737ec7a5fbbe5a7ab103ce160246d5bab87f01214f38")
