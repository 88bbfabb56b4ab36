"""One family of errors. Every message says what is wrong, where, and what to do."""


class OventaError(Exception):
    """Base of all errors raised on purpose; ``code`` is stable, ``where`` a path or name."""

    code = "error"

    def __init__(self, what: str, where: str = "", do: str = "") -> None:
        self.what = what
        self.where = where
        self.do = do
        super().__init__(" ".join(part for part in (f"{where}:" if where else "", what, do) if part))

    def __reduce__(self) -> tuple[type["OventaError"], tuple[object, ...]]:
        """The same error in another process."""
        return type(self), (self.what, self.where, self.do)


class MissingFigureError(OventaError):
    """A figure that the computation cannot do without is absent."""

    code = "missing_figure"


class ImpossibleInputError(OventaError):
    """The input describes something that cannot exist."""

    code = "impossible_input"


class UnreadableLogError(OventaError):
    """A log file cannot be understood without help."""

    code = "unreadable_log"
