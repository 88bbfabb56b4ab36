"""``./oventa watch``: this machine's own sensors to a bench, its load started and ended as the run's phase says."""

import argparse
import json
import os
import re
import sys
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from cli.output import EXIT_DONE, say
from documents.runlog.reader import CHANNEL_NAME
from engine.errors import OventaError
from instruments.load import Loads
from instruments.sender import Sender
from instruments.sensors import SYSTEM, Sensor, found, mapped, missing

CAUTION = (
    "Caution. Stay with the machine while it runs at full load, keep vents clear, set a stop limit at the bench, and stop if a part stays "
    "at its limit, you smell heat or a cooler gurgles. The makers' manuals and your local rules come first."
)
KEPT = Path("~/.oventa/sensors.json")
SILENT_S = 30.0  # without an answer of the bench the load is taken off: nobody watches any more


def watch(args: argparse.Namespace) -> int:
    """Until it is interrupted. Raises SensorsError, LoadError or BenchRefusedError."""
    if not 0.2 <= args.every <= 60:
        raise OventaError(f"every {args.every:g} s is not possible", "--every", "Give 0.2 to 60 seconds.")
    root = Path(args.sensors) if args.sensors else SYSTEM
    kept = Path(args.keep).expanduser()
    sensors = found(root)
    said = read_kept(kept)
    if args.choose:
        said = choose(sensors, said)
        keep(kept, said)
    channels = mapped(sensors, said)
    tell_channels(channels, sensors)
    load = Loads(args.load) if args.load else None
    if load:
        say(CAUTION)
    source = f"{os.uname().nodename if hasattr(os, 'uname') else 'this machine'}'s own sensors"
    sender = Sender(args.bench, args.token, args.rate, source, load.all_named if load else ())
    say(f"posting to {args.bench} every {args.every:g} s; Ctrl+C ends it{' and the load' if load else ''}")
    try:
        post(channels, sender, load, args.every, threading.Event(), say)
    except KeyboardInterrupt:
        say("ended")
    return EXIT_DONE


def post(
    channels: Mapping[str, Sensor],
    sender: Sender,
    load: Loads | None,
    every_s: float,
    stop: threading.Event,
    tell: Callable[[str], None],
    clock: Callable[[], float] = time.monotonic,
    wait: Callable[[float], object] | None = None,
) -> None:
    """Readings until told to stop or refused. The load follows the bench, and ends with this, whatever ends it."""
    begun, due, heard, silent = clock(), clock(), clock(), False
    try:
        while not stop.is_set():
            values = {name: sensor.read() for name, sensor in channels.items()}
            sender.add([round((clock() - begun) * sender.rate, 3)], {name: [value] for name, value in values.items()})
            answered = sender.flush()
            if answered:
                if silent:
                    tell("the bench answers again; nothing that was kept is lost")
                heard, silent = clock(), False
            elif not silent:
                silent = True
                tell("the bench does not answer; readings are kept and sent when it does")
            if load:
                wanted = bool(sender.last and sender.last.phase == "load" and clock() - heard < SILENT_S)
                for words in load.follow(wanted, sender.last.load if sender.last else "idle"):
                    tell(words)
            due = max(due + every_s, clock())
            (wait or stop.wait)(max(due - clock(), 0.0))
    finally:
        if load:
            load.end()


def tell_channels(channels: Mapping[str, Sensor], sensors: list[Sensor]) -> None:
    """What is read from where, with its value now, and what is missing with what that costs."""
    for name, sensor in channels.items():
        value = sensor.read()
        say(f"  {name:<18} {'no reading yet' if value is None else f'{value:.1f}':>14}   {sensor.words}")
    used = {s.identity for s in channels.values()}
    for sensor in sensors:
        if sensor.identity not in used:
            value = sensor.read()
            say(f"  {'not used':<18} {'no reading yet' if value is None else f'{value:.1f}':>14}   {sensor.words} ({sensor.unit})")
    for words in missing(channels):
        say(f"  missing: {words}")


def choose(sensors: list[Sensor], said: Mapping[str, str]) -> dict[str, str]:
    """A person names channels, seeing the value beside each sensor; an empty line is done."""
    channels = {s.identity: name for name, s in mapped(sensors, said).items()}
    chosen = dict(said)
    for n, s in enumerate(sensors, 1):
        value = s.read()
        say(f"{n:>3}  {'-' if value is None else f'{value:.1f}':>9} {s.unit:<4} {s.words:<40} {channels.get(s.identity, 'not used')}")
    say("Number=channel to change one (3=coolant_c), number= to leave it out, an empty line when all is right.")
    for line in sys.stdin:
        if not line.strip():
            break
        number, _, name = line.strip().partition("=")
        if (
            not number.strip().isdigit()
            or not 1 <= int(number) <= len(sensors)
            or (name.strip() and not re.match(CHANNEL_NAME, name.strip()))
        ):
            say(f"{line.strip()!r} is not understood: write it as 3=coolant_c")
            continue
        chosen[sensors[int(number) - 1].identity] = name.strip()
    return chosen


def read_kept(path: Path) -> dict[str, str]:
    """What was chosen before, by identity; nothing where nothing was kept. Raises OventaError for a file that is damaged."""
    try:
        raw = json.loads(path.read_text(encoding="utf-8"))
    except FileNotFoundError:
        return {}
    except (OSError, ValueError) as error:
        raise OventaError(
            "the kept choice of sensors cannot be read", str(path), "Remove the file, or choose anew with --choose."
        ) from error
    if not isinstance(raw, dict) or not all(isinstance(v, str) for v in raw.values()):
        raise OventaError("the kept choice of sensors is none", str(path), "Remove the file, or choose anew with --choose.")
    return {str(k): v for k, v in raw.items()}


def keep(path: Path, said: Mapping[str, str]) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_text(json.dumps(dict(said), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")


def add_commands(commands: Any) -> None:
    own = commands.add_parser("watch", help="this machine's own sensors to a bench, and its load with the run")
    own.add_argument("--bench", required=True, metavar="URL", help="such as http://127.0.0.1:8417/api/benches/1")
    own.add_argument("--token", required=True, metavar="T")
    own.add_argument("--every", type=float, default=1.0, metavar="S")
    own.add_argument(
        "--load",
        action="append",
        metavar='"COMMAND"',
        help="your own load program, started and ended as the run's phase says; for a suite one for each: cpu=COMMAND, card=COMMAND",
    )
    own.add_argument("--sensors", metavar="DIR", help="a folder laid out like the system's sensor tree, instead of this machine's")
    own.add_argument("--choose", action="store_true", help="name the channels, seeing each sensor's value; kept for the next time")
    own.add_argument("--keep", default=str(KEPT), metavar="FILE", help="where the choice is kept, by each sensor's identity")
    own.add_argument("--rate", type=float, default=1.0, help=argparse.SUPPRESS)
    own.set_defaults(run=watch)
