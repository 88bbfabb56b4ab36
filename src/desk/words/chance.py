"""How a chance is said."""


def chance_words(chance: float) -> str:
    """In per cent; none is ever quite certain."""
    return "over 99 %" if chance > 0.99 else "under 1 %" if chance < 0.01 else f"{100 * chance:.0f} %"
