"""Errors of documents: several at once, each with its path and remedy."""

from dataclasses import dataclass

from engine.errors import OventaError


@dataclass(frozen=True)
class Fault:
    """One mistake in a document: JSON path, what is wrong, what to do."""

    path: str
    what: str
    do: str


class DocumentError(OventaError):
    """A document cannot be used; ``faults`` lists every mistake found."""

    code = "bad_document"

    def __init__(self, faults: list[Fault]) -> None:
        self.faults = faults
        first = faults[0]
        super().__init__(first.what, first.path, first.do)

    def __reduce__(self) -> tuple[type["DocumentError"], tuple[object, ...]]:
        return type(self), (self.faults,)

    def lines(self) -> list[str]:
        return [f"{f.path}: {f.what}. {f.do}" for f in self.faults]
