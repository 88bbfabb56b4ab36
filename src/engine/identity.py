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
ENGINE = Identity("1.5.5", "f4fbb352ab12d27f94eee03e348f9c3cabed73d83adde068c5bb1d55792f69ce")
METHOD = Identity("6.4.1", "a74dbe026b6d49656a2bf345163baa0c1aa12dd0e7afd638bf6429c761e1ba14")
