"""A small SCPI instrument over TCP: the stand-ins that speak it, and the client that reads any instrument that does.

Commands end with a line feed (IEEE 488.2, SCPI-99): *IDN?, *OPC?, SYST:ERR?, and by kind
logger: ROUT:SCAN:LIST? -> channel numbers, READ? -> their readings in that order, comma between, 9.9E+37 for an open thermocouple
chamber: SOUR:TEMP <C>, SOUR:TEMP?, SOUR:HUM <%>, MEAS:TEMP?, MEAS:HUM?
fan controller: SOUR:FAN<n>:DUTY <%>, SOUR:FAN<n>:DUTY?, MEAS:FAN<n>:SPE?
"""

import socketserver
import threading
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from engine.errors import OventaError

OPEN_CIRCUIT = 9.9e37  # IEEE 488.2 / SCPI-99: the number that stands for infinity
OFF_SCALE = 1e30
TIMEOUT_MS = 2000
IDN = "Made-up Instruments,stand-in {kind},0,1.0"


class InstrumentError(OventaError):
    """An instrument that cannot be reached or does not understand."""

    code = "instrument"


class ScpiClient:
    """Reads an instrument at ``host:port`` with the standard library for such instruments."""

    def __init__(self, address: str) -> None:
        import pyvisa  # here: slow to load, and few have such an instrument

        host, _, port = address.rpartition(":")
        if not host or not port.isdigit():
            raise InstrumentError(f"{address!r} is no address", "address", "Give host:port, such as 127.0.0.1:5025.")
        self.address = address
        try:
            opened: Any = pyvisa.ResourceManager("@py").open_resource(f"TCPIP0::{host}::{port}::SOCKET", open_timeout=TIMEOUT_MS)
        except Exception as error:  # the library raises its own and the socket's errors
            do = "Check that it is switched on and its network address."
            raise InstrumentError(f"nothing answers ({error})", address, do) from error
        opened.read_termination = opened.write_termination = "\n"
        opened.timeout = TIMEOUT_MS
        self._instrument = opened
        self.identity = self.ask("*IDN?")  # an address that nothing listens at is only noticed by asking

    def ask(self, command: str) -> str:
        try:
            return str(self._instrument.query(command)).strip()
        except Exception as error:
            raise InstrumentError(f"no answer to {command!r} ({error})", self.address, "Check the instrument and its cable.") from error

    def tell(self, command: str) -> None:
        """A command without an answer; the instrument's error queue is asked whether it was understood."""
        self._instrument.write(command)
        said = self.ask("SYST:ERR?")
        if not said.startswith(("0", "+0")):
            raise InstrumentError(f"{command!r}: {said}", self.address, "Check the command against the instrument's manual.")

    def readings(self) -> dict[str, float | None]:
        """Channel number to reading; None for an open or off-scale one."""
        names = [n.strip() for n in self.ask("ROUT:SCAN:LIST?").strip("(@)").split(",") if n.strip()]
        values = [float(v) for v in self.ask("READ?").split(",")]
        if len(names) != len(values):
            raise InstrumentError(f"{len(values)} readings for {len(names)} channels", self.address, "Set its scan list again.")
        return {n: None if abs(v) > OFF_SCALE else v for n, v in zip(names, values, strict=True)}

    def close(self) -> None:
        self._instrument.close()


class Device:
    """A made-up instrument: answers by command. ``answers`` take the text after a command and return the answer, or None."""

    def __init__(self, kind: str, answers: Mapping[str, Callable[[str], str | None]]) -> None:
        self.kind = kind
        self.errors: list[str] = []
        self.answers = {"*IDN?": lambda _t: IDN.format(kind=kind), "*OPC?": lambda _t: "1", "SYST:ERR?": self._error, **answers}

    def _error(self, _text: str) -> str:
        return self.errors.pop(0) if self.errors else '0,"No error"'

    def answer(self, line: str) -> str | None:
        command, _, text = line.strip().partition(" ")
        found = self.answers.get(command.upper())
        if found is None:
            self.errors.append('-113,"Undefined header"')
            return None
        try:
            return found(text.strip())
        except ValueError:
            self.errors.append('-104,"Data type error"')
            return None


def logger(scan: Sequence[str], read: Callable[[], Sequence[float | None]]) -> Device:
    """A multi-channel logger; ``read`` gives the present readings in the order of ``scan``."""

    def cells(_text: str) -> str:
        return ",".join(f"{OPEN_CIRCUIT if v is None else v:+.6E}" for v in read())

    return Device("logger", {"ROUT:SCAN:LIST?": lambda _t: f"(@{','.join(scan)})", "READ?": cells})


class Chamber:
    """A climate chamber that cycles about its set point and overshoots after it is opened."""

    def __init__(self, temperature_c: float = 25.0, humidity_pct: float = 50.0) -> None:
        self.set_c, self.set_pct = temperature_c, humidity_pct
        self.actual_c = temperature_c
        self.phase = 0

    def _temperature(self, text: str) -> None:
        value = float(text)
        if not -40 <= value <= 90:
            raise ValueError("outside of the chamber's range")
        self.set_c = value

    def _humidity(self, text: str) -> None:
        self.set_pct = float(text)

    def _measure(self, _text: str) -> str:
        self.phase += 1
        self.actual_c += 0.3 * (self.set_c - self.actual_c)
        return f"{self.actual_c + (0.4 if self.phase % 4 < 2 else -0.4):.1f}"

    def device(self) -> Device:
        return Device(
            "chamber",
            {
                "SOUR:TEMP": self._temperature,
                "SOUR:TEMP?": lambda _t: f"{self.set_c:.1f}",
                "SOUR:HUM": self._humidity,
                "MEAS:TEMP?": self._measure,
                "MEAS:HUM?": lambda _t: f"{self.set_pct:.0f}",
            },
        )


def fan_controller(speeds_rpm: Mapping[int, float]) -> Device:
    """Outputs with a duty each; the least duty is 20 %, asked for or not, as real ones do not say."""
    duty = dict.fromkeys(speeds_rpm, 100.0)
    answers: dict[str, Callable[[str], str | None]] = {}
    for n, full in speeds_rpm.items():
        answers[f"SOUR:FAN{n}:DUTY"] = lambda text, n=n: duty.__setitem__(n, min(max(float(text), 20.0), 100.0))  # type: ignore[misc]
        answers[f"SOUR:FAN{n}:DUTY?"] = lambda _t, n=n: f"{duty[n]:.0f}"  # type: ignore[misc]
        answers[f"MEAS:FAN{n}:SPE?"] = lambda _t, n=n, full=full: f"{full * duty[n] / 100:.0f}"  # type: ignore[misc]
    return Device("fan controller", answers)


class _Handler(socketserver.StreamRequestHandler):
    def handle(self) -> None:
        device: Device = self.server.device  # type: ignore[attr-defined]  # set by ``serve``
        for raw in self.rfile:
            said = device.answer(raw.decode("ascii", "replace"))
            if said is not None:
                self.wfile.write(said.encode() + b"\n")


class _Server(socketserver.ThreadingTCPServer):
    allow_reuse_address = True
    daemon_threads = True


def serve(device: Device, port: int = 0) -> tuple[_Server, str]:
    """Starts a device on this machine; returns the server (``shutdown`` ends it) and its address."""
    server = _Server(("127.0.0.1", port), _Handler)
    server.device = device  # type: ignore[attr-defined]
    threading.Thread(target=server.serve_forever, daemon=True, name=f"stand-in {device.kind}").start()
    return server, f"127.0.0.1:{server.server_address[1]}"
