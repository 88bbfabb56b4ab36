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
ENGINE = Identity("1.6.6", "137102992b03e894aff8089b4d5303b33c734479f9fe0f23f1ba39ef838cd58d")
METHOD = Identity("6.5.1", "7a8daebad067e2e68e50f6949b4c1c412d2dab766a2effbc1bf6e3ec9b8948ef")
