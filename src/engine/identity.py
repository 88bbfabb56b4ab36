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
ENGINE = Identity("1.6.11", "5a4163bcf6a2e01fa020780f40d478c004471b6532b29ae719151a30a41230d6")
METHOD = Identity("6.9.1", "d24ca095a3e036d2a2aece4439117e897f9ca35fbd6cdf47bd043a058e0cecb0")
