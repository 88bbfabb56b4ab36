"""``./oventa push``, ``standin`` and ``connect``: readings to a bench from a file, from the stand-in machine, from an instrument."""

import argparse
import os
import threading
import time
from typing import Any

import numpy as np

from cli.bench import fault
from cli.files import read_bytes, read_job_file
from cli.output import EXIT_DONE, say
from desk.job.resolve import Resolver
from desk.words.bench import INSTRUMENTS
from documents.runlog.reader import read_log
from engine.coupled.operating_point import loaded
from engine.errors import OventaError, UnreadableLogError
from engine.runs.series import RunLog
from instruments.collect import collect
from instruments.livebench import PROBES, LiveStandIn, Pace, instruments_of, play
from instruments.load import LOADS
from instruments.sender import Sender
from instruments.standin import difficult_day

ROWS_A_POST = 200
LOOK_EVERY_S = 0.5
COST_FACTOR = 5.0  # a long file is looked at less often than it takes to read
PATIENCE_S = 600.0


def push(args: argparse.Namespace) -> int:
    """Sends a run log's readings; with ``--follow`` goes on as the file grows, until it has stood still for ``--quiet`` s."""
    sender = Sender(args.bench, args.token, 1.0, os.path.basename(args.run_log))
    sent = _follow(args.run_log, sender, args.quiet) if args.follow else _send(sender, read_log(read_bytes(args.run_log)).log, -np.inf)[0]
    say(f"{sent} rows in {sender.acknowledged} posts, all acknowledged")
    return EXIT_DONE


def _send(sender: Sender, log: RunLog, after_s: float) -> tuple[int, float]:
    """Rows later than ``after_s``; returns how many, and the time of the last."""
    first = int(np.searchsorted(log.elapsed_s, after_s, side="right"))
    for start in range(first, len(log.elapsed_s), ROWS_A_POST):
        rows = slice(start, start + ROWS_A_POST)
        values = {n: [None if v != v else float(v) for v in c[rows]] for n, c in log.channels.items()}
        sender.add(np.round(log.elapsed_s[rows], 3).tolist(), values)
        if not sender.flush(PATIENCE_S):
            do = "Start the bench again and repeat; nothing that was acknowledged is lost."
            raise OventaError(f"the bench has not answered for {PATIENCE_S:.0f} s", sender.address, do)
    return len(log.elapsed_s) - first, float(log.elapsed_s[-1])


def _follow(path: str, sender: Sender, quiet_s: float) -> int:
    """Whole lines as they come; the file is read anew each time it has grown, so that any dialect will do."""
    size, sent, last, moved = -1, 0, -np.inf, time.monotonic()
    while time.monotonic() - moved <= quiet_s:
        data = read_bytes(path)
        whole = data[: data.rfind(b"\n") + 1]
        begun = time.monotonic()
        if len(whole) > size:
            try:
                log = read_log(whole).log
            except UnreadableLogError:
                log = None  # too few rows to understand yet
            if log is not None:
                count, last = _send(sender, log, last)
                sent += count
            size, moved = len(whole), time.monotonic()
        time.sleep(max(LOOK_EVERY_S, COST_FACTOR * (time.monotonic() - begun)))
    return sent


def standin(args: argparse.Namespace) -> int:
    """The stand-in machine of a layout, posting to a bench until it is interrupted."""
    doc = read_job_file(args.job)
    layout = args.layout or (doc.layouts[0].id if doc.layouts else "")
    machine = loaded(Resolver(doc).machine(layout), "both")
    faults = [fault(f) for f in args.fault or ()]
    if args.difficult:
        faults += difficult_day(machine, 40.0, args.seed)
    sender = Sender(args.bench, args.token, args.rate, f"stand-in of layout {layout}, seed {args.seed}", LOADS)
    say(f"layout {layout} stands at rest on {args.bench}, {args.rate:g} times as fast; Ctrl+C ends it")
    made = LiveStandIn(machine, args.seed, 1.0, faults)
    beside = instruments_of(made, args.logger_port, args.meter_port)
    say(f"its logger answers SCPI at {beside.logger} (channels {', '.join(PROBES)}), its sound meter writes lines at {beside.meter}")
    play(made, sender, Pace(args.rate), threading.Event(), say)
    beside.stop()
    return EXIT_DONE


def connect(args: argparse.Namespace) -> int:
    """An instrument's readings to a bench until it is interrupted."""
    channels = {}
    for given in args.channel or ():
        number, _, name = given.partition("=")
        if not name:
            raise OventaError(f"{given!r} names no channel", "--channel", "Write it as number=name, such as 101=air_front_c.")
        channels[number] = name
    sender = Sender(args.bench, args.token, 1.0, f"{args.kind} at {args.address}")
    collect(args.kind, args.address, channels, sender, args.every, threading.Event(), lambda words: say(words) if words else None)
    return EXIT_DONE


def add_commands(commands: Any) -> None:
    one = commands.add_parser("push", help="send a run log's readings to a bench")
    one.add_argument("run_log", metavar="RUN.csv")
    one.add_argument("--follow", action="store_true", help="go on as the file grows")
    one.add_argument("--quiet", type=float, default=60.0, metavar="S", help="with --follow: end when nothing has come for S seconds")
    one.set_defaults(run=push)
    two = commands.add_parser("standin", help="a made-up machine that posts readings to a bench")
    two.add_argument("job", metavar="JOB.json")
    two.add_argument("--layout", metavar="ID")
    two.add_argument("--rate", type=float, default=1.0, metavar="X", help="1 to 240 times as fast")
    two.add_argument("--seed", type=int, default=1, metavar="N")
    two.add_argument("--fault", action="append", metavar="KIND[:OF]@MIN")
    two.add_argument("--difficult", action="store_true")
    two.add_argument("--logger-port", type=int, default=0, metavar="P", help="of its SCPI logger; any free one by default")
    two.add_argument("--meter-port", type=int, default=0, metavar="P", help="of its sound meter")
    two.set_defaults(run=standin)
    three = commands.add_parser("connect", help="an instrument's readings to a bench")
    three.add_argument("kind", choices=tuple(INSTRUMENTS))
    three.add_argument("address", help="host:port, or the name of a serial port")
    three.add_argument("--channel", action="append", metavar="NUMBER=NAME")
    three.add_argument("--every", type=float, default=5.0, metavar="S")
    three.set_defaults(run=connect)
    for command in (one, two, three):
        command.add_argument("--bench", required=True, metavar="URL", help="such as http://127.0.0.1:8417/api/benches/1")
        command.add_argument("--token", required=True, metavar="T")
