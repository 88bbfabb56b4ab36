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
ENGINE = Identity("1.2.3", "2f111efbe5c43436bfdbecdff26a3cceffdad5e907462e62f82e2a463b625bd8")
METHOD = Identity("6.3.0", "d887f178fb8033461d5303b2ca6d4e41080385ecbc8542f0fd7a3a410cbafeed")
