"""A person's own load program, started and ended with the phases of a run; it never outlives what started it."""

import contextlib
import os
import shlex
import signal
import subprocess
import sys
from collections.abc import Sequence
from typing import get_args

from engine.errors import OventaError
from engine.plan.protocol import Load as LoadName

GRACE_S = 5.0
LOADS = get_args(LoadName)


class LoadError(OventaError):
    """The load cannot be started, or not as it was asked."""

    code = "load_refused"


class Load:
    """``command`` as in a shell, without one: no redirection, no other user."""

    def __init__(self, command: str) -> None:
        try:
            self.words = shlex.split(command)
        except ValueError as error:
            raise LoadError(f"the command cannot be read ({error})", "--load", "Close its quotes.") from error
        if not self.words:
            raise LoadError("no command is named", "--load", 'Give it in quotes, such as --load "my-load --all-cores".')
        if os.name == "posix" and os.geteuid() == 0 and os.environ.get("SUDO_UID"):
            raise LoadError("a load is never run as another user", "--load", "Start watch as yourself, without raised rights.")
        self.process: subprocess.Popen[bytes] | None = None

    @property
    def runs(self) -> bool:
        return self.process is not None and self.process.poll() is None

    def follow(self, wanted: bool) -> str:
        """Starts or ends it; what was done, in words, or nothing."""
        if wanted and self.process is None:
            self.start()
            return f"load started: {' '.join(self.words)}"
        if wanted and self.process is not None and self.process.poll() is not None:
            code, self.process = self.process.returncode, None
            self.start()
            return f"the load had ended by itself (exit {code}): started again"
        if not wanted and self.process is not None:
            self.end()
            return "load ended"
        return ""

    def start(self) -> None:
        """In a group of its own, which ends as a whole; on Linux the kernel ends it too when the watcher is killed."""
        try:
            self.process = subprocess.Popen(
                self.words,
                stdin=subprocess.DEVNULL,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,
                preexec_fn=_end_with_parent if sys.platform == "linux" else None,
            )
        except OSError as error:
            raise LoadError(f"the load does not start ({error.strerror})", self.words[0], "Check its name and its path.") from error

    def end(self) -> None:
        """Asked first, then made to."""
        process, self.process = self.process, None
        if process is None or process.poll() is not None:
            return
        _signal(process, signal.SIGTERM)
        try:
            process.wait(GRACE_S)
        except subprocess.TimeoutExpired:
            _signal(process, signal.SIGKILL)
            process.wait()


class Loads:
    """The loads of a suite: ``cpu=COMMAND`` and ``card=COMMAND`` run alone or both together as the run asks, ``both=`` or any other
    load by its name takes their place, and a command without a name serves for whatever has none of its own. Idle runs nothing."""

    def __init__(self, given: Sequence[str]) -> None:
        self.loads: dict[str, Load] = {}
        for words in given:
            name, found, command = words.partition("=")
            if not (found and name.strip() in LOADS):
                name, command = "", words
            self.loads[name.strip()] = Load(command)

    def follow(self, wanted: bool, load: str) -> list[str]:
        """Starts and ends what the run's phase and its load ask for; what was done, in words."""
        names = self.named(load) if wanted else ()
        # What is to end ends first, so that two loads never run where one was asked for.
        order = sorted(self.loads, key=lambda name: name in names)
        return [f"{name}: {words}" if name else words for name in order if (words := self.loads[name].follow(name in names))]

    def named(self, load: str) -> tuple[str, ...]:
        """Which of them a run's load takes."""
        if load == "idle":
            return ()
        if load in self.loads:
            return (load,)
        together = tuple(name for name in ("cpu", "card") if name in self.loads)
        if load == "both" and together:
            return together
        return ("",) if "" in self.loads else ()

    @property
    def all_named(self) -> list[str]:
        """The loads that a run may ask for and that something is started for."""
        return [load for load in LOADS if self.named(load)]

    @property
    def runs(self) -> bool:
        return any(x.runs for x in self.loads.values())

    def end(self) -> None:
        for load in self.loads.values():
            load.end()


def _signal(process: "subprocess.Popen[bytes]", what: signal.Signals) -> None:
    with contextlib.suppress(ProcessLookupError, PermissionError):
        if os.name == "posix":
            os.killpg(process.pid, what)
        else:
            process.terminate()


def _end_with_parent() -> None:
    import ctypes

    ctypes.CDLL(None).prctl(1, signal.SIGTERM)  # PR_SET_PDEATHSIG (source: prctl(2))
