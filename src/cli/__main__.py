"""The abilities that need no database, from a shell. Each command loads only what it needs: nobody waits for another's imports."""

import argparse
import importlib
import os
import sys
from collections.abc import Callable, Sequence

from cli import start
from cli.output import EXIT_BAD_INPUT, EXIT_DONE, say
from documents.errors import DocumentError
from engine.errors import OventaError

MODULES = {
    "cli.asks": ("forecast", "findings", "explain", "air", "fit", "warm"),
    "cli.runs": ("analyse", "compare"),
    "cli.bench": ("simulate", "plan"),
    "cli.learn": ("learn", "next"),
    "cli.search": ("search",),
    "cli.build": ("build",),
    "cli.care": ("commission",),
    "cli.sound": ("sound",),
    "cli.live": ("push", "standin", "connect"),
    "cli.watch": ("watch",),
}


def parser(command: str | None = None) -> argparse.ArgumentParser:
    """The command line of FORMATS.md, the part that needs no database: of one command, or all where none is named."""
    top = argparse.ArgumentParser(prog="oventa")
    commands = top.add_subparsers(dest="command", required=True)
    own = [module for module, names in MODULES.items() if command in names]
    for module in own or MODULES:
        importlib.import_module(module).add_commands(commands)
    return top


def main(argv: Sequence[str] | None = None) -> int:
    given = list(sys.argv[1:] if argv is None else argv)
    args = parser(given[0] if given else None).parse_args(given)
    try:
        return int(args.run(args))
    except DocumentError as error:
        for line in error.lines():
            say(line)
    except OventaError as error:
        say(str(error))
    except ValueError as error:  # pydantic's complaint about an option out of range
        say(f"an option is out of range: {error}")
    return EXIT_BAD_INPUT


def piped(command: Callable[[], int]) -> int:
    """Its exit code, also where whoever reads has seen enough and closed the pipe (the way Python's documentation gives)."""
    try:
        code = command()
        sys.stdout.flush()
    except BrokenPipeError:
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return EXIT_DONE
    return code


if __name__ == "__main__":
    start.quickly(sys.argv[1] if sys.argv[1:] else "")
    sys.exit(piped(main))
