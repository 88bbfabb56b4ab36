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
ENGINE = Identity("1.2.5", "ac2e78dbebe3adb89ebef7263b541aad7fcc1a888883319c7ea93dd28bae88c3")
METHOD = Identity("6.3.6", "384ff7990e591c7778da2f01c11ade90b21550c5c2a5258d4a0e503665a66a89")
