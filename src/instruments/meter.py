"""A sound level meter that writes a line of text for each reading, over a serial port or TCP: stand-in and client.

A line is ``LAF 34.2 dB`` or only ``34.2``: weighting and time constant first where they are given, a decimal point or comma,
``<28.0`` below its range. Other lines are passed over. Two to eight lines a second.
"""

import os
import re
import select
import socket
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
import serial

from instruments.scpi import InstrumentError

_LINE = re.compile(
    r"^\s*(?:L?(?P<weighting>[AaCcZz])(?P<time>[FfSs])?\s*=?\s*)?(?P<below><)?\s*(?P<level>\d{1,3}(?:[.,]\d+)?)\s*(?:dB\s*(?:\(?[ACZ]\)?)?)?\s*$"
)
SPEEDS_BAUD = 9600


@dataclass(frozen=True)
class MeterReading:
    """``weighting`` and ``time`` as the meter says them, empty where it does not."""

    level_db: float
    weighting: str = ""
    time: str = ""
    below_range: bool = False

    @property
    def usable_dba(self) -> float | None:
        """None where it is not an A-weighted level within the meter's range."""
        return None if self.below_range or self.weighting not in ("", "A") else self.level_db


def read_line(line: str) -> MeterReading | None:
    """A reading from a line of text; None for a line that is none."""
    found = _LINE.match(line)
    if not found:
        return None
    level = float(found["level"].replace(",", "."))
    if not 0 <= level <= 150:
        return None
    return MeterReading(level, (found["weighting"] or "").upper(), (found["time"] or "").upper(), bool(found["below"]))


class MeterClient:
    """Lines of a meter at ``host:port`` or at a serial port such as /dev/ttyUSB0; keeps what came since it was last asked."""

    def __init__(self, address: str) -> None:
        self.address = address
        host, _, port = address.rpartition(":")
        try:
            if host and port.isdigit():
                self._socket: socket.socket | None = socket.create_connection((host, int(port)), timeout=2)
                self._socket.setblocking(False)
                self._serial = None
            else:
                self._socket, self._serial = None, serial.Serial(address, SPEEDS_BAUD, timeout=0)
        except (OSError, ValueError) as error:
            raise InstrumentError(f"no meter answers ({error})", address, "Give host:port or the name of its serial port.") from error
        self._text = b""

    def take(self) -> list[MeterReading]:
        """Readings since the last call; an empty list when there were none. Raises InstrumentError when the meter has gone."""
        if self._socket:
            while select.select([self._socket], [], [], 0)[0]:
                got = self._socket.recv(4096)
                if not got:
                    raise InstrumentError("the meter has closed the connection", self.address, "Switch it on again.")
                self._text += got
        elif self._serial:
            self._text += self._serial.read(4096)
        *lines, self._text = self._text.split(b"\n")
        return [r for line in lines if (r := read_line(line.decode("ascii", "replace").strip()))]

    def close(self) -> None:
        for end in (self._socket, self._serial):
            if end:
                end.close()


def mean_level_dba(readings: list[MeterReading]) -> float | None:
    """Energy mean of the usable ones; None when there is none."""
    levels = [v for r in readings if (v := r.usable_dba) is not None]
    return float(10 * np.log10(np.mean(10 ** (np.array(levels) / 10)))) if levels else None


class MeterStandIn:
    """Writes lines about a level to whoever connects, or into a pseudo-terminal."""

    def __init__(self, level_dba: Callable[[], float], seed: int = 1, per_second: float = 4.0) -> None:
        self.level_dba, self.per_second = level_dba, per_second
        self.rng = np.random.default_rng(seed)
        self.stop = threading.Event()

    def line(self) -> bytes:
        return f"LAF {self.level_dba() + self.rng.normal(0, 0.6):.1f} dB\n".encode()

    def serve(self, port: int = 0) -> str:
        """Starts a TCP server; returns its address."""
        listener = socket.create_server(("127.0.0.1", port))
        threading.Thread(target=self._accept, args=(listener,), daemon=True, name="stand-in meter").start()
        return f"127.0.0.1:{listener.getsockname()[1]}"

    def _accept(self, listener: socket.socket) -> None:
        listener.settimeout(0.5)
        with listener:
            while not self.stop.is_set():
                try:
                    end, _ = listener.accept()
                except TimeoutError:
                    continue
                threading.Thread(target=self._write, args=(end.sendall, end.close), daemon=True).start()

    def terminal(self) -> str:
        """Opens a pseudo-terminal; returns the name of the end to read."""
        own, other = os.openpty()
        name = os.ttyname(other)
        threading.Thread(target=self._write, args=(lambda b: os.write(own, b), lambda: os.close(own)), daemon=True).start()
        return name

    def _write(self, send: Callable[[bytes], object], close: Callable[[], None]) -> None:
        try:
            while not self.stop.is_set():
                send(self.line())
                time.sleep(1 / self.per_second)
        except OSError:
            pass  # the reader has gone
        finally:
            close()
