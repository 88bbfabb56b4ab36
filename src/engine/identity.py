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
ENGINE = Identity("1.6.8", "5d5fac31874dddb059ce6eab73438e137489fcdfb25478ee2eedb14284033cd0")
METHOD = Identity("6.6.2", "c6c55337c524a51ef89b4c10270028265b409b846689ba59efe8b59be0aad13b")
