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
METHOD = Identity("6.7.1", "817a71b9ebb845b14640c79cd0432131552fe15cb7407b06e1e61b9bbd2d2530")
