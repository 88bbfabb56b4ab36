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
ENGINE = Identity("1.6.5", "89a8f385d1529f0891db230e367b0c730c9f099252a765382a0f7b7fab98c85f")
METHOD = Identity("6.5.1", "7a8daebad067e2e68e50f6949b4c1c412d2dab766a2effbc1bf6e3ec9b8948ef")
