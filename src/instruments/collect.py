"""Reads instruments in turn and hands their readings to a bench as rows."""

import threading
import time
from collections.abc import Callable, Mapping, Sequence
from typing import Literal, Protocol

from instruments.meter import MeterClient, mean_level_dba
from instruments.scpi import InstrumentError, ScpiClient
from instruments.sender import BenchRefusedError

AGAIN_S = 5.0


class Source(Protocol):
    """Anything that can be read: channel name to reading, None for no reading."""

    def read(self) -> Mapping[str, float | None]: ...

    def close(self) -> None: ...


class Sink(Protocol):
    """Where rows go: a sender over HTTP, or the bench itself."""

    rate: float

    def add(self, elapsed_s: Sequence[float], channels: Mapping[str, Sequence[float | None]]) -> None: ...

    def flush(self, patience_s: float = 0.0) -> bool: ...


class LoggerSource:
    """A SCPI logger; ``channels`` gives the name of each of its numbered channels that is wanted."""

    def __init__(self, address: str, channels: Mapping[str, str]) -> None:
        if not channels:
            raise InstrumentError("no channel is named", address, "Give number=name for each, such as 101=air_front_c.")
        self.client, self.channels = ScpiClient(address), channels

    def read(self) -> dict[str, float | None]:
        got = self.client.readings()
        missing = [n for n in self.channels if n not in got]
        if missing:
            do = f"It has {', '.join(got)}."
            raise InstrumentError(f"the logger has no channel {missing[0]}", self.client.address, do)
        return {name: got[number] for number, name in self.channels.items()}

    def close(self) -> None:
        self.client.close()


class ChamberSource:
    """A climate chamber's own temperature as the room's."""

    def __init__(self, address: str, _channels: Mapping[str, str]) -> None:
        self.client = ScpiClient(address)

    def read(self) -> dict[str, float | None]:
        return {"room_c": float(self.client.ask("MEAS:TEMP?"))}

    def close(self) -> None:
        self.client.close()


class MeterSource:
    """A sound meter's lines as one level for each time it is asked."""

    def __init__(self, address: str, _channels: Mapping[str, str]) -> None:
        self.client = MeterClient(address)

    def read(self) -> dict[str, float | None]:
        return {"sound_dba": mean_level_dba(self.client.take())}

    def close(self) -> None:
        self.client.close()


class FanControllerSource:
    """Speeds of a SCPI fan controller; ``channels`` gives the name of each of its outputs that is wanted."""

    def __init__(self, address: str, channels: Mapping[str, str]) -> None:
        odd = next((n for n in channels if not n.isdigit()), None)
        if odd is not None or not channels:
            what = "no fan is named" if odd is None else f"{odd!r} is no number of an output"
            raise InstrumentError(what, address, "Give number=name for each, such as 1=fan_f1_rpm.")
        self.client, self.channels = ScpiClient(address), channels

    def read(self) -> dict[str, float | None]:
        return {name: self._speed(number) for number, name in self.channels.items()}

    def _speed(self, number: str) -> float:
        said = self.client.ask(f"MEAS:FAN{number}:SPE?")
        try:
            return float(said)
        except ValueError as error:
            do = "Check the number of the output against the controller."
            raise InstrumentError(f"output {number} answers {said!r} and no speed", self.client.address, do) from error

    def close(self) -> None:
        self.client.close()


InstrumentKind = Literal["logger", "chamber", "meter", "fans"]
SOURCES: Mapping[str, Callable[[str, Mapping[str, str]], Source]] = {
    "logger": LoggerSource,
    "chamber": ChamberSource,
    "meter": MeterSource,
    "fans": FanControllerSource,
}


def open_source(kind: str, address: str, channels: Mapping[str, str]) -> Source:
    """A source by its kind, one of ``SOURCES``. Raises InstrumentError when it cannot be reached."""
    if kind not in SOURCES:
        raise InstrumentError(f"{kind!r} is no kind of instrument", address, f"Use one of {', '.join(SOURCES)}.")
    return SOURCES[kind](address, channels)


def collect(
    kind: str,
    address: str,
    channels: Mapping[str, str],
    sender: Sink,
    every_s: float,
    stop: threading.Event,
    tell: Callable[[str], None] = lambda _words: None,
) -> None:
    """Reads and sends until told to stop or refused; an instrument that falls silent is opened again."""
    source: Source | None = None
    begun = time.monotonic()
    try:
        while not stop.is_set():
            try:
                source = source or open_source(kind, address, channels)
                found = source.read()
                sender.add([round((time.monotonic() - begun) * sender.rate, 2)], {n: [v] for n, v in found.items()})
                sender.flush()
                tell("")
                stop.wait(every_s)
            except InstrumentError as error:
                tell(str(error))
                if source:
                    source.close()
                source = None
                stop.wait(AGAIN_S)
    except BenchRefusedError as error:
        tell(str(error))
    finally:
        if source:
            source.close()
