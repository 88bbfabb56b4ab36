"""Where the shell commands write: JSON alone on stdout, words on stderr."""

import sys

from pydantic import BaseModel

EXIT_DONE, EXIT_BAD_INPUT, EXIT_NOT_CONVERGED = 0, 2, 3


def print_json(doc: BaseModel) -> None:
    print(doc.model_dump_json(indent=1))


def say(words: str) -> None:
    print(words, file=sys.stderr)
