"""Numbers of things in words."""


def counted(n: int, what: str) -> str:
    """A number of runs or sweeps in words."""
    first, of, rest = what.partition(" ")
    return f"{n} {first}{'' if n == 1 else 's'}{of}{rest}"
