"""``./oventa backup FILE``, ``./oventa restore FILE``, and what the launcher does before it starts the server."""

import argparse
import sys
from pathlib import Path

from server.config.paths import DATA, DATABASE
from server.keep.copies import restore, write
from server.keep.database import Facts
from server.keep.start import check_key, prepare
from server.keep.words import KeepError


def words(facts: Facts) -> str:
    """How much there is; readings are posts of senders, runs hold their own."""
    named = {"readings": "posts of readings"}
    return ", ".join(f"{count} {named.get(what, what[:-1] if count == 1 else what)}" for what, count in facts.counts.items())


def main(argv: list[str]) -> int:
    """Exit code 0 when done, 2 with the reason on stderr."""
    parser = argparse.ArgumentParser(prog="oventa", description=f"Data folder: {DATA}")
    commands = parser.add_subparsers(dest="command", required=True)
    saving = commands.add_parser("backup", help="write everything that is stored into one file, also while Oventa runs")
    saving.add_argument("file", type=Path, metavar="FILE")
    bringing = commands.add_parser("restore", help="put a backup in the place of what is stored, which is kept aside")
    bringing.add_argument("file", type=Path, metavar="FILE")
    commands.add_parser("prepare", help="look at the database and bring it up to date")
    args = parser.parse_args(argv)
    try:
        if args.command == "backup":
            facts = write(args.file)
            print(f"Saved and read again: {args.file} ({words(facts)})")
        elif args.command == "restore":
            facts, aside = restore(args.file)
            print(f"Restored to {DATABASE}: {words(facts)}" + (f"\nThe state before is kept in {aside}" if aside else ""))
        else:
            check_key()
            for line in prepare():
                print(line, file=sys.stderr)
    except KeepError as error:
        print(f"{error.what}.\nWhat to do: {error.do}", file=sys.stderr)
        return 2
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
