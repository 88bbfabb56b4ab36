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
METHOD = Identity("6.3.2", "08172f6a1758efc60164b184198e4c0b32488a5d0db8fb9ec69d1f09436c08b0")
