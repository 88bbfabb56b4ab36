"""What can be wrong with stored data, in words."""


class KeepError(Exception):
    """``what`` is wrong, and what to ``do``."""

    def __init__(self, what: str, do: str) -> None:
        super().__init__(f"{what}. {do}")
        self.what, self.do = what, do


def disk_words(error: OSError, doing: str) -> KeepError:
    """A full or unwritable disk while ``doing``."""
    if error.errno in (28, 122):  # no space left, quota exceeded
        return KeepError(f"The disk is full: {doing} was stopped", "Make room and try again; what is stored is as it was.")
    name = f" ({error.filename})" if error.filename else ""
    return KeepError(
        f"{doing[:1].upper()}{doing[1:]} failed: {error.strerror or error}{name}", "Look at the folder and who may write there."
    )
