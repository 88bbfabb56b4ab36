"""Glossary of quantities: suffix, unit, meaning; and the conversions between the trade's habits and SI."""

from dataclasses import dataclass
from types import MappingProxyType

M3H_PER_M3S = 3600.0  # by definition
M3H_PER_CFM = 1.699010796  # cubic foot 0.028316846592 m3 (exact) times 60 per hour
PA_PER_MMH2O = 9.80665  # conventional millimetre of water, exact by definition
MM_PER_INCH = 25.4  # by definition
KELVIN_OFFSET = 273.15  # by definition


@dataclass(frozen=True)
class Quantity:
    """A kind of figure: ``suffix`` ends its names, ``low``/``high`` bound what is sensible for a PC."""

    suffix: str
    unit: str
    meaning: str
    low: float
    high: float


QUANTITIES = MappingProxyType(
    {
        q.suffix: q
        for q in (
            Quantity("c", "°C", "temperature", -40, 150),
            Quantity("k", "K", "difference of temperatures", -150, 150),
            Quantity("w", "W", "power", 0, 3000),
            Quantity("m3h", "m³/h", "volume flow", -2000, 2000),
            Quantity("pa", "Pa", "pressure", -500, 500),
            Quantity("rpm", "rpm", "speed of rotation", 0, 20000),
            Quantity("dba", "dBA", "sound level", 0, 120),
            Quantity("mm", "mm", "length", 0, 3000),
            Quantity("cm2", "cm²", "area", 0, 20000),
            Quantity("pct", "%", "share", 0, 100),
            Quantity("mhz", "MHz", "clock", 0, 10000),
            Quantity("s", "s", "time", 0, 1e7),
        )
    }
)


def fahrenheit_to_celsius(temperature_f: float) -> float:
    """Temperature in deg C from deg F."""
    return (temperature_f - 32.0) / 1.8
