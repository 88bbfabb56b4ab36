"""``./oventa search``: every layout of the fans there are, and those that none beats."""

import argparse
import os
import sys
from typing import Any

from cli.files import read_job_file
from cli.learn import learning_of, read_package
from cli.output import EXIT_DONE, print_json
from desk.search.document import search
from desk.search.looking import Rows
from desk.search.question import SearchQuestion
from desk.search.shapes import SearchDoc

SHOWN = 5


def find(args: argparse.Namespace) -> int:
    doc = read_job_file(args.job)
    learning = learning_of(read_package(args.learned)).about(doc) if args.learned else None
    asked = {name: value for name, value in vars(args).items() if name in SearchQuestion.model_fields and value is not None}
    question = SearchQuestion(**asked | {"start": getattr(args, "from")})
    found = search(doc, question, learning, progress=_progress)
    if args.json:
        print_json(found)
    else:
        _table(found)
    return EXIT_DONE


def _progress(done: int, total: int, _rows: Rows) -> None:
    if sys.stderr.isatty():
        sys.stderr.write(f"\r{done} of {total} forecasts")


def _table(found: SearchDoc) -> None:
    whole = "every one" if found.exhaustive else f"not every one of {found.possible}; up to {found.gap_pct:.2f} % may still be better"
    print(f"{found.distinct} layouts looked at ({whole}), {found.evaluated} forecasts; {len(found.frontier)} that no other beats")
    if found.why_none:
        print(found.why_none)
    print(f"now, {found.start.id}: {_figures(found.start.cpu_rise_k, found.start.card_rise_k, found.start.level_dba)}")
    for x in [x for x in found.frontier if x.simplest][:SHOWN]:
        print(f"{_figures(x.cpu_rise_k, x.card_rise_k, x.level_dba)}  {x.minutes:.0f} min: {'; '.join(x.words) or 'as it is'}")


def _figures(cpu_k: float, card_k: float | None, level_dba: float) -> str:
    card = "" if card_k is None else f"  card {card_k:.1f} K"
    return f"processor {cpu_k:.1f} K{card}  {level_dba:.1f} dBA"


def add_commands(commands: Any) -> None:
    one = commands.add_parser("search", help="every layout of the fans there are, and those that none beats")
    one.add_argument("job", metavar="JOB.json")
    one.add_argument("--learned", metavar="PACKAGE.zip", help="with what the runs of a package have taught")
    one.add_argument("--max-dba", type=float, metavar="L")
    one.add_argument("--max-cpu-c", type=float, metavar="T")
    one.add_argument("--max-card-c", type=float, metavar="T")
    one.add_argument("--max-price", type=float, metavar="P")
    one.add_argument("--max-minutes", type=float, metavar="M", help="of hand work from the layout that is built now")
    one.add_argument("--scenario", metavar="ID", help="with the heat that one of the job's scenarios adds")
    one.add_argument("--one-fan-may-stop", action="store_true", help="limits are kept with any one case fan at rest too")
    one.add_argument("--speeds", choices=("together", "sides"), default="sides", help="one speed for all case fans, or each side its own")
    one.add_argument("--fans", choices=("hand", "library"), default="hand")
    one.add_argument("--from", metavar="ID", help="the layout that is built now; the first if none is named")
    one.add_argument("--load", choices=("idle", "cpu", "card", "both"), default="both")
    one.add_argument("--most-fans", type=int, metavar="N")
    one.add_argument("--empty", action="append", metavar="MOUNT", help="a mount that is to stay empty")
    one.add_argument("--turn-card", action="store_true", help="the card may stand upright as well")
    one.add_argument("--seed", type=int, default=0, metavar="N")
    one.add_argument("--workers", type=_workers, default=os.cpu_count(), metavar="N", help="threads that solve; the answer is the same")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=find)


def _workers(text: str) -> int:
    """Taken up before the engine makes its threads."""
    count = int(text)
    if not 1 <= count <= 256:
        raise argparse.ArgumentTypeError("from 1 to 256")
    os.environ["OVENTA_THREADS"] = str(count)
    return count
