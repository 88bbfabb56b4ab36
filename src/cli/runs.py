"""``./oventa analyse`` and ``./oventa compare``: from run logs to figures and words."""

import argparse
import json
from typing import Any

from cli.output import EXIT_DONE, print_json, say
from desk.runs.document import AnalysisDoc, ComparisonDoc
from desk.verdict.words import digits_of, measured
from desk.words.bench import LOG_UNITS
from desk.words.channels import KIND_BY_UNIT
from desk.words.measures import METRIC
from documents.runlog.reader import read_log
from engine.errors import OventaError
from engine.plan.acceptance import judge
from engine.plan.protocol import TEMPLATES, Protocol
from engine.runs.analysis import ChannelAnalysis, RunAnalysis
from engine.runs.analysis import analyse as analyse_log
from engine.verdict.candidate import Candidate
from engine.verdict.compare import Pair
from engine.verdict.compare import compare as compare_runs


def _protocol(path: str) -> Protocol:
    """A protocol from a JSON file of its own, or a template by its name."""
    if path in TEMPLATES:
        return TEMPLATES[path]
    from documents.job.planned import ProtocolDoc  # here: most runs are asked about without one

    try:
        with open(path, encoding="utf-8") as file:
            return ProtocolDoc.model_validate(json.load(file)).to_engine()
    except OSError as error:
        do = f"Check the name, or use a template: {', '.join(TEMPLATES)}."
        raise OventaError(f"cannot read the file ({error.strerror})", path, do) from error
    except ValueError as error:
        raise OventaError(f"this is no protocol ({error})", path, "Write it as in a job document's protocols.") from error


def _load(path: str, window_s: float | None = None, map_path: str | None = None, background_dba: float | None = None) -> RunAnalysis:
    try:
        with open(path, "rb") as file:
            data = file.read()
        mapping = None
        if map_path:
            with open(map_path, encoding="utf-8") as file:
                mapping = json.load(file)
    except (OSError, json.JSONDecodeError) as error:
        raise OventaError(f"cannot read the file ({error})", path, "Check the name and the folder.") from error
    imported = read_log(data, mapping)
    for words in (*imported.notes, *imported.questions):
        say(f"{path}: {words}")
    return analyse_log(imported.log, window_s, background_dba)


def analyse(args: argparse.Namespace) -> int:
    protocol = _protocol(args.protocol) if args.protocol else None
    window_s = args.window if args.window is not None else protocol.averaged_s if protocol else None
    run = _load(args.run_log, window_s, args.map, args.background)
    doc = AnalysisDoc.of(run)
    if protocol and protocol.criteria:
        doc.acceptance = judge(run, protocol.criteria, protocol.statistic)
    if args.json:
        print_json(doc)
        return EXIT_DONE
    print("settled" if run.settled else "not settled", f"after {run.duration_s / 60:.0f} min")
    for c in run.channels:
        rise = "" if c.rise_k is None else f"{c.rise_k:8.1f} K over room"
        going = "".join(f"  {words}" for words in (_end(c), c.more) if words)
        print(f"{c.name:<22}{c.mean:9.1f} {_unit(c.name):<5}{rise:<21}{going}".rstrip())
    for f in run.flags:
        print(f"{f.code}: {f.detail}")
    if doc.acceptance:
        print("accepted" if doc.acceptance.passed else "not accepted", *(f"; {x.channel} {x.words}" for x in doc.acceptance.lines))
    return EXIT_DONE


def _end(c: ChannelAnalysis) -> str:
    """Where a temperature that has not settled was going: the figure that is compared."""
    if c.going is None or c.going.rise_k is None:
        return ""
    return f"going to {c.going.rise_k:.1f} ±{c.going.band_k:.1f} K"


OF_DIFFERENCES = {"°C": "K", "dBA": "dB"}


def _unit(channel: str) -> str:
    """As a channel's name says; empty for a score."""
    word = channel.rsplit("_", 1)[-1]
    kind = KIND_BY_UNIT.get(word)
    return LOG_UNITS.get(word, METRIC[kind].unit if kind else "")


def _size(p: Pair) -> str:
    """A difference with its band, with the digits that it is told with everywhere."""
    if p.difference_k is None:
        return ""
    digits = digits_of(measured(p.channel, p.difference_k, p.expanded_uncertainty_k))
    unit = OF_DIFFERENCES.get(_unit(p.channel), _unit(p.channel))
    # Nought is added since a tiny negative difference would be written as -0.0.
    return f"{round(p.difference_k, digits) + 0.0:+.{digits}f} ±{p.expanded_uncertainty_k:.{digits}f} {unit}".rstrip()


def compare(args: argparse.Namespace) -> int:
    candidates = []
    for i, given in enumerate(args.logs):
        name, _, files = given.rpartition("=")
        name = name or (chr(65 + i) if i < 26 else f"R{i}")
        candidates.append(Candidate(name, [_load(f) for f in files.split(",")], asked=False))
    if len(candidates) < 2:
        raise OventaError("there is nothing to compare", "compare", "Give at least two logs.")
    doc = ComparisonDoc(margin_k=args.margin_k, pairs=compare_runs(candidates, args.margin_k))
    if args.json:
        print_json(doc)
        return EXIT_DONE
    for p in doc.pairs:
        why = "; ".join(p.confounders)
        # A temperature that is held at its limit says nothing of a layout: neither a word nor a size stands for it.
        said = "no word" if p.at_limit else f"{p.word.replace('_', ' ')} {_size(p)}".rstrip()
        print(f"{p.b} against {p.a}, {p.channel}: {said}{f' ({why})' if why else ''}")
    for scatter in dict.fromkeys(p.scatter for p in doc.pairs if p.difference_k is not None and not p.at_limit):
        of = ", ".join(dict.fromkeys(p.channel for p in doc.pairs if p.scatter == scatter))
        print(f"scatter from one run and rebuild to the next, {of}: {scatter}")
    return EXIT_DONE


def add_commands(commands: Any) -> None:
    """Adds both commands to the launcher's sub-commands."""
    one = commands.add_parser("analyse", help="figures, settle call and flags of one run")
    one.add_argument("run_log", metavar="RUN.csv")
    one.add_argument("--window", type=float, metavar="S")
    one.add_argument("--map", metavar="FILE")
    one.add_argument("--background", type=float, metavar="L", help="the room's level in dBA with the machine off")
    one.add_argument("--protocol", metavar="FILE", help="a protocol's JSON or a template's name: its window and its criteria")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=analyse)
    two = commands.add_parser("compare", help="layouts against each other from their runs")
    two.add_argument("logs", nargs="+", metavar="[NAME=]A.csv[,A2.csv]")
    two.add_argument("--margin-k", type=float, default=1.5)
    two.add_argument("--json", action="store_true")
    two.set_defaults(run=compare)
