"""Which size of cooler a heat load asks for, and what the case lets in."""

from dataclasses import dataclass

# Upper heat in W that each class carries in long duty: common practice, no source.
CLASSES = (
    ("a low downdraft", 65.0, 70.0),
    ("a small tower, one 92 mm fan", 105.0, 130.0),
    ("a tower, one 120 mm fan", 160.0, 155.0),
    ("a large tower, two fans", 220.0, 165.0),
    ("a sealed loop with 240 mm of radiator", 250.0, 0.0),
    ("a sealed loop with 360 mm of radiator", 330.0, 0.0),
    ("an open loop with two radiators", 600.0, 0.0),
)
SHORT_DUTY = 1.2  # common practice, no source: bursts of minutes let a class carry this much more
OVERCLOCK = 1.25  # common practice, no source


@dataclass(frozen=True)
class CoolerAdvice:
    """``wanted`` by heat alone; ``possible`` is what the case takes, and ``warning`` says when that is less."""

    heat_w: float
    wanted: str
    possible: str
    warning: str


def cooler_advice(
    power_w: float, overclocked: bool, long_duty: bool, height_limit_mm: float | None, longest_radiator_mm: float
) -> CoolerAdvice:
    """The smallest class that carries the heat, and the largest that fits where that does not."""
    heat = power_w * (OVERCLOCK if overclocked else 1.0) / (1.0 if long_duty else SHORT_DUTY)
    wanted = next((c for c in CLASSES if c[1] >= heat), CLASSES[-1])
    fits = [c for c in CLASSES if _fits(c, height_limit_mm, longest_radiator_mm)]
    good = next((c for c in fits if c[1] >= heat), None)
    possible = good or max(fits, key=lambda c: c[1], default=None)
    warning = ""
    if good is None:
        most = f"the largest that fits, {possible[0]}, carries about {possible[1]:.0f} W" if possible else "no class fits this case"
        warning = f"{heat:.0f} W ask for {wanted[0]}; {most}. Lower the power limit, or choose another case."
    elif good is not wanted:
        warning = f"{wanted[0].capitalize()} does not fit this case; {good[0]} does."
    return CoolerAdvice(heat, wanted[0], possible[0] if possible else "", warning)


def _fits(kind: tuple[str, float, float], height_limit_mm: float | None, longest_radiator_mm: float) -> bool:
    name, _, height = kind
    if height:
        return height_limit_mm is None or height <= height_limit_mm
    needed = 360.0 if "360" in name or "open" in name else 240.0
    return longest_radiator_mm >= needed
