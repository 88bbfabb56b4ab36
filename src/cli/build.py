"""``./oventa build``: the sheet by which a layout is built."""

import argparse
from pathlib import Path
from typing import Any

from cli.output import EXIT_DONE, print_json
from desk.build.document import build
from desk.build.shapes import BuildDoc
from documents.job.reader import read_job
from engine.errors import OventaError


def sheet(args: argparse.Namespace) -> int:
    try:
        doc = read_job(Path(args.job).read_bytes()).doc
    except OSError as error:
        raise OventaError(f"cannot read the file ({error.strerror})", args.job, "Check the name and the folder.") from error
    found = build(doc, args.layout, getattr(args, "from"))
    if args.pdf:
        from desk.build import paper  # lays out pages, so only here

        try:
            Path(args.pdf).write_bytes(paper.pdf(found, doc, args.paper))
        except OSError as error:
            raise OventaError(f"cannot write the file ({error.strerror})", args.pdf, "Check the name and the folder.") from error
    if args.json:
        print_json(found)
    elif not args.pdf:
        _table(found)
    return EXIT_DONE


def _table(found: BuildDoc) -> None:
    print(f"{found.layout} {found.name}: {len(found.steps)} steps, about {found.minutes:.0f} min")
    for line in found.impossible:
        print(f"no order: {line}")
    for n, step in enumerate(found.steps, start=1):
        print(f"{n:3}. {step.words}  ({step.minutes:g} min)")
        for line in step.details:
            print(f"       {line}")


def add_commands(commands: Any) -> None:
    one = commands.add_parser("build", help="the sheet by which a layout is built")
    one.add_argument("job", metavar="JOB.json")
    one.add_argument("--layout", required=True, metavar="ID")
    one.add_argument("--from", metavar="ID", help="the layout that stands now; none: an empty case")
    one.add_argument("--pdf", metavar="FILE", help="the sheet for paper")
    one.add_argument("--paper", choices=("A4", "Letter"), default="A4")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=sheet)
