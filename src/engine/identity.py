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
ENGINE = Identity("1.6.12", "17f974c2611593b68c0b48aafab8c2130d867721fe6fa625610872e32311b8de")
METHOD = Identity("6.9.5", "910135b145c5eca66bbb01ce73847f7ad6ffbf0a8ca79bfbeec1f6c4dd2647db")
