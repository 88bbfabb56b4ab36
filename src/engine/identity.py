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
METHOD = Identity("6.10.2", "1cc47ecf405032ab190817362d35d55fa6fdfb3ef1f6eae5301b6c44c93d6d3d")
