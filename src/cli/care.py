"""``./oventa commission``: a unit's short run against the reference run of its layout."""

import argparse
from typing import Any

from cli.files import read_bytes
from cli.learn import learning_of
from cli.output import EXIT_DONE, print_json, say
from desk.care.commission import CommissioningDoc, commission, reference_in
from desk.learn.packaged import packed_runs
from desk.words.chance import chance_words
from documents.runlog.reader import read_log


def unit(args: argparse.Namespace) -> int:
    data = read_bytes(args.reference)
    packed = packed_runs(data)
    reference = reference_in(data, packed.doc, args.layout, learning_of(packed))
    imported = read_log(read_bytes(args.unit))
    for words in (*imported.notes, *imported.questions):
        say(f"{args.unit}: {words}")
    found = commission(reference, imported.log)
    if args.json:
        print_json(found)
    else:
        _table(found)
    return EXIT_DONE


def _table(found: CommissioningDoc) -> None:
    print(f"{found.verdict}: {found.minutes:.0f} min under load {found.load}, against {', '.join(found.runs)}")
    for c in found.channels:
        moved = "not read" if c.difference_k is None else f"{c.difference_k:+.1f} {c.unit}, allowed {c.allowed_k:.1f}"
        print(f"{c.name:<20}{moved:<32}{c.word}")
    for d in found.diagnosis:
        print(f"{chance_words(d.chance_pct / 100):<10}{d.words}: {d.look}")
    if found.tell:
        print(found.tell)
    for note in found.notes:
        say(note)


def add_commands(commands: Any) -> None:
    one = commands.add_parser("commission", help="a unit's short run against the reference run of its layout")
    one.add_argument("reference", metavar="REFERENCE.zip", help="a package with valid runs of the layout")
    one.add_argument("unit", metavar="UNIT.csv")
    one.add_argument("--layout", required=True, metavar="ID")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=unit)
