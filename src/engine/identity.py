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
ENGINE = Identity("1.6.13", "bf435d20b441f978c8474d96906be886b3e9ea364f60c4096e455c12655e799d")
METHOD = Identity("6.9.7", "bc334a2aa1773734508bca713bf4ade0dc20c58ac626febf610edcd09481785a")
