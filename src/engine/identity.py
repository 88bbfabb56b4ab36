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
ENGINE = Identity("1.6.0", "e3f63e2aac713d7a7c8f76b1874a68c83a8712d036cc22745de5fc4df23b3846")
METHOD = Identity("6.5.0", "142b21a48ca30d9e0bc2ae024f525d1cf92361e767a9e17a6acf4fdf2434034c")
