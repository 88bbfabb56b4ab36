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


PRODUCT = "0.9.0"
ENGINE = Identity("1.5.0", "9f1abb6c1058349eedf5123ebb112ae2927c05909507f50632252b232195975b")
METHOD = Identity("6.4.0", "261b4ea4d01dcec5ea493f31f2f24def8941afb8a3b5fe1e3445d348d33cefc3")
