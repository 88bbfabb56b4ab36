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
ENGINE = Identity("1.2.4", "31df11bc8c9a4bf9dc2dda0fa8148f74172c908a4248ea013e8a6b8d60c5de91")
METHOD = Identity("6.3.4", "6bcc9959484698f84697144a2a2bcc5443c9a1a61ee76a2fd02d71f4561a7b32")
