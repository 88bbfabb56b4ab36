"""``./oventa build``: the sheet by which a layout is built."""

import argparse
from typing import Any

from cli.files import read_job_file, write_bytes
from cli.output import EXIT_DONE, print_json
from desk.build.document import build
from desk.build.shapes import BuildDoc
from desk.words.measures import SYSTEMS


def sheet(args: argparse.Namespace) -> int:
    doc = read_job_file(args.job)
    found = build(doc, args.layout, getattr(args, "from"))
    if args.pdf:
        from desk.build import paper  # lays out pages, so only here

        write_bytes(args.pdf, paper.pdf(found, doc, args.paper, args.units))
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
    one.add_argument("--units", choices=SYSTEMS, default="metric", help="of the paper: metric, or the trade's inches, CFM and °F")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=sheet)
