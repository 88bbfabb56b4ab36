"""``./oventa simulate`` and ``./oventa plan``: a made-up run log; the run sheet of a job."""

import argparse
from pathlib import Path
from typing import Any, Literal

from pydantic import BaseModel

from cli.files import read_job_file
from cli.output import EXIT_DONE, print_json, say
from desk.job.resolve import Resolver
from desk.plan.order import KINDS, OrderKind, ordered
from desk.plan.runsheet import SheetLine, SheetWarning, planned_runs, run_sheet
from documents.job.planned import PlanDoc, from_template
from documents.runlog.writer import write_log
from engine.coupled.operating_point import loaded
from engine.errors import OventaError
from instruments.standin import FAULTS, Fault, difficult_day, simulate


def fault(text: str) -> Fault:
    """``kind@minutes`` or ``kind:of@minutes``."""
    kind, _, at = text.partition("@")
    kind, _, of = kind.partition(":")
    try:
        return Fault(kind, float(at or 10.0), of or None)
    except ValueError as error:
        raise OventaError(f"{at!r} is no number of minutes", f"--fault {text}", "Write it as kind@minutes or kind:of@minutes.") from error


def simulate_run(args: argparse.Namespace) -> int:
    """Writes a made-up run of one layout to a file or to stdout."""
    doc = read_job_file(args.job)
    layout = args.layout or (doc.layouts[0].id if doc.layouts else "")
    if not 0 < args.minutes <= 1440 or not 0.2 <= args.every <= 60:
        raise OventaError("the run is too short, too long or too coarse", "simulate", "Minutes 0 to 1440, every 0.2 to 60 s.")
    machine = loaded(Resolver(doc).machine(layout, args.room), args.load)
    faults = [fault(f) for f in args.fault or ()]
    if args.difficult:
        faults += difficult_day(machine, args.minutes, args.seed)
        say("a difficult day: " + ", ".join(f"{f.kind}{f' {f.of}' if f.of else ''} at {f.minutes:.0f} min" for f in faults))
    text = write_log(simulate(machine, args.minutes, args.seed, args.every, faults))
    if args.output:
        try:
            Path(args.output).write_text(text, encoding="utf-8")
        except OSError as error:
            raise OventaError(f"cannot write the file ({error.strerror})", args.output, "Choose another place.") from error
        say(f"{args.output}: a made-up run of layout {layout}, {args.minutes:g} min, seed {args.seed}")
    else:
        print(text, end="")
    return EXIT_DONE


class PlanOut(BaseModel):
    """``exact``: whether no order takes less time; ``gap_min``: at most so much could still be saved."""

    format: Literal["oventa-plan"] = "oventa-plan"
    version: Literal[1] = 1
    order: list[str]
    minutes: float
    exact: bool
    as_listed_minutes: float
    kind: OrderKind
    gap_min: float = 0.0
    lines: list[SheetLine]
    warnings: list[SheetWarning]


def plan(args: argparse.Namespace) -> int:
    """The job's run sheet; without a plan in it, every layout once with the first as control."""
    doc = read_job_file(args.job)
    if doc.plan is None or not doc.plan.runs:
        protocol = doc.protocols[-1] if doc.protocols else from_template("short")
        if not doc.layouts:
            raise OventaError("the job has no layouts", args.job, "Draw some first.")
        names = [x.id for x in doc.layouts]
        runs = planned_runs(names, protocol, names[0], 1)
        known = [*doc.protocols, *([] if doc.protocols else [protocol])]
        doc = doc.model_copy(update={"protocols": known, "plan": PlanDoc(protocol=protocol.id, control=names[0], runs=runs)})
    listed = doc.plan
    if listed is None:
        raise OventaError("nothing is planned", args.job, "Choose which layouts to run.")
    found, runs = ordered(doc, listed, args.order, args.seed)
    as_listed = ordered(doc, listed, "listed")[0].minutes
    sheet = run_sheet(doc.model_copy(update={"plan": listed.model_copy(update={"runs": runs})}))
    if args.json:
        out = PlanOut(
            kind=found.kind,
            order=found.order,
            exact=found.exact,
            gap_min=found.gap_min,
            minutes=sheet.minutes,
            as_listed_minutes=as_listed,
            lines=sheet.lines,
            warnings=sheet.warnings,
        )
        print_json(out)
        return EXIT_DONE
    say(f"{' '.join(found.order)}: {found.minutes:.0f} min; as listed {as_listed:.0f} min")
    for line in sheet.lines:
        print(f"{line.at_min:6.0f} min  {line.minutes:4.0f} min  {line.kind:<8}{line.layout or '':<4}{'; '.join(line.words)}")
    for warning in sheet.warnings:
        say(f"{warning.what}. {warning.do}")
    return EXIT_DONE


def add_commands(commands: Any) -> None:
    one = commands.add_parser("simulate", help="a made-up run of a layout from the stand-in bench")
    one.add_argument("job", metavar="JOB.json")
    one.add_argument("--layout", metavar="ID")
    one.add_argument("--minutes", type=float, default=30.0, metavar="M")
    one.add_argument("--seed", type=int, default=1, metavar="N")
    one.add_argument("--every", type=float, default=1.0, metavar="S")
    one.add_argument("--load", choices=("idle", "cpu", "card", "both"), default="both")
    one.add_argument("--room", type=float, metavar="C")
    one.add_argument("--fault", action="append", metavar="KIND[:OF]@MIN", help=f"one of {', '.join(FAULTS)}")
    one.add_argument("--difficult", action="store_true", help="three faults at random")
    one.add_argument("-o", "--output", metavar="RUN.csv")
    one.set_defaults(run=simulate_run)
    two = commands.add_parser("plan", help="what is run, rebuilt and waited for, with minutes")
    two.add_argument("job", metavar="JOB.json")
    two.add_argument("--order", choices=KINDS, default="listed", help="least: the least time between runs, proved up to a dozen layouts")
    two.add_argument("--seed", type=int, default=1, metavar="N", help="of a shuffled order")
    two.add_argument("--json", action="store_true")
    two.set_defaults(run=plan)
