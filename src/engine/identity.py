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
ENGINE = Identity("1.6.10", "858c60af29e7a7851f1df1a1528915dcb1b385b15710765fe94b87799434653d")
METHOD = Identity("6.6.8", "7fcad354f3bd8f5e7a9dd3853b40ea919547202ccc37189b6942d4e2131be7fb")
