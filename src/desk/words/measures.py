"""Units of measure in which figures and sentences are read; everything is stored, sent and worked out in metric ones."""

import re
from collections.abc import Mapping
from dataclasses import asdict, dataclass
from types import MappingProxyType
from typing import Any, Literal, get_args

WHOLE_BAND = 10.0  # two digits and more: a tenth behind it says nothing (source: gum, 7.2.6)

System = Literal["metric", "trade"]
SYSTEMS = get_args(System)


@dataclass(frozen=True)
class Unit:
    """``shown = stored * factor + offset``."""

    unit: str
    digits: int
    factor: float = 1.0
    offset: float = 0.0


METRIC: Mapping[str, Unit] = MappingProxyType(
    {
        "flow": Unit("m³/h", 0),
        "pressure": Unit("Pa", 1),
        "length": Unit("mm", 0),
        "temperature": Unit("°C", 1),
        "difference": Unit("K", 1),
        "level": Unit("dBA", 0),
        "power": Unit("W", 0),
        "speed": Unit("rpm", 0),
        "area": Unit("cm²", 0),
        "share": Unit("%", 0),
        "time": Unit("s", 1),
        "clock": Unit("MHz", 0),
        "plain": Unit("", 2),
    }
)
# Exact by definition: the foot is 304.8 mm, the inch 25.4 mm, standard gravity 9.80665 m/s2 (source: NIST SP 811, appendix B).
TRADE: Mapping[str, Unit] = MappingProxyType(
    {
        **METRIC,
        "flow": Unit("CFM", 0, 1 / (0.3048**3 * 60)),
        "pressure": Unit("mmH₂O", 2, 1 / 9.80665),
        "length": Unit("in", 2, 1 / 25.4),
        "temperature": Unit("°F", 1, 1.8, 32.0),
        "difference": Unit("°F", 1, 1.8),
        "area": Unit("in²", 1, 1 / 6.4516),
    }
)
# Sizes that are names: nobody calls a fan or a radiator by its inches (common practice, no source).
NAMED_MM = ("40", "60", "70", "80", "92", "120", "140", "180", "200", "240", "280", "360", "420", "480", "560")
_CONVERTED = ("flow", "pressure", "length", "temperature", "difference", "area")
NUMBER = r"[+±−-]?\d+(?:\.\d+)?"
PATTERN = (
    rf"(?<![\w./-])(?<!× )({NUMBER}(?:,? (?:to|of|and|or|±) {NUMBER}| ?± ?{NUMBER})*) "
    rf"({'|'.join(METRIC[k].unit for k in _CONVERTED)})(?![\w²³/·])"
)


def said(text: str, system: System) -> str:
    """A sentence, its measures in the reader's units: "25 to 30 mm", "12 ± 3 K", "340 of 500 mm". In metric ones it stays as it is."""
    return text if system == "metric" else re.sub(PATTERN, _in_trade, text, flags=re.ASCII)


def _in_trade(found: re.Match[str]) -> str:
    numbers, unit = found.groups()
    kind = next(k for k in _CONVERTED if METRIC[k].unit == unit)
    if kind == "length" and all(n in NAMED_MM for n in re.findall(NUMBER, numbers)):
        return found.group()
    value, *bands = re.split(r"(?<=[\d ])± ?", numbers)  # what stands behind ± is a difference
    written = [_written(value, kind), *(_written(b, "difference" if kind == "temperature" else kind) for b in bands)]
    return f"{'± '.join(written) if ' ±' in numbers else '±'.join(written)} {TRADE[kind].unit}"


def _written(numbers: str, kind: str) -> str:
    return re.sub(NUMBER, lambda n: _number(n.group(), kind), numbers)


def _number(text: str, kind: str) -> str:
    """One number; a plus or ± before °C tells of a difference, a minus of frost."""
    sign, bare = (text[0], text[1:]) if text[0] in "+±−-" else ("", text)
    own = TRADE["difference" if kind == "temperature" and sign in ("+", "±") else kind]
    value = float(bare) * (-1 if sign in ("−", "-") else 1) * own.factor + own.offset
    digits = 0 if kind == "temperature" and "." not in bare else own.digits
    return (sign if sign in ("+", "±") else "−" if value < 0 else "") + f"{abs(value):.{digits}f}"


def tables() -> dict[str, dict[str, dict[str, Any]]]:
    """Both systems, as the front end reads them."""
    return {name: {kind: asdict(unit) for kind, unit in own.items()} for name, own in (("metric", METRIC), ("trade", TRADE))}
