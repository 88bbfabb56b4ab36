"""What each command of the launcher does."""

import argparse
import subprocess
from pathlib import Path

from launcher import setup
from launcher.steps import FIRST_PORT, SetupError, say

USAGE = """Oventa, the bench partner for case cooling.

  ./oventa demo       set up everything, load the made-up demo job, start, print the address
  ./oventa serve      the same without demo data
  ./oventa backup FILE   everything that is stored in one file, read again after writing; also while Oventa runs
  ./oventa restore FILE  puts such a file in the place of what is stored, which is kept aside
  ./oventa test       all checks and tests [PATH...] [--quick]
  ./oventa bench      how fast it is here [--json] [--all] [--soak [--minutes M]] [--busy]
  ./oventa study      how often the engine and the verdicts are right; each writes its page of evidence [--cases N] [--seed N]
                      [--settle N | --waits N | --verdicts N | --campaigns N | --steps N | --kills N | --next N | --learn N
                       --units N | --search ...]
  ./oventa forecast JOB.json [--layout ID] [--load L] [--room C] [--against ID] [--minutes M] [--learned PACKAGE.zip] [--json]
  ./oventa findings JOB.json [--layout ID] [--json]
  ./oventa explain JOB.json [--layout ID] [--figure cpu|card|coolant|rear|sound|balance] [--json]
  ./oventa fit JOB.json [--layout ID] [--json]
  ./oventa air JOB.json [--layout ID] [--space up_front] [--json]
  ./oventa learn PACKAGE.zip [--load L] [--json]
  ./oventa next PACKAGE.zip [--margin-k K] [--hours H] [--json]
  ./oventa search JOB.json [--max-dba L] [--max-cpu-c T] [--max-price P] [--learned PACKAGE.zip] [--json]
  ./oventa analyse RUN.csv [--window S] [--protocol FILE] [--json]
  ./oventa simulate JOB.json [--layout ID] [--minutes M] [--seed N] [--fault KIND[:OF]@MIN] [--difficult] [-o RUN.csv]
  ./oventa plan JOB.json [--json]
  ./oventa build JOB.json --layout ID [--from ID] [--pdf FILE] [--paper A4|Letter] [--json]
  ./oventa commission REFERENCE.zip UNIT.csv --layout ID [--json]
  ./oventa sound CLIP.wav [--calibration-clip CAL.wav --calibration-db 94 | --meter-dba DBA] [--json]
  ./oventa push RUN.csv --bench URL --token T [--follow]
  ./oventa standin JOB.json --bench URL --token T [--layout ID] [--rate X] [--seed N]
  ./oventa connect logger|chamber|meter|fans ADDRESS --bench URL --token T [--channel N=NAME]...
  ./oventa watch --bench URL --token T [--every S] [--load "COMMAND"] [--sensors DIR] [--choose]
  ./oventa compare [NAME=]A.csv[,A2.csv] B.csv ... [--json]

demo and serve take --port N; Ctrl+C stops them. Data lives in var/ (or in the folder named by OVENTA_DATA)."""
OWN = {
    "demo": "Sets up everything, starts, prints the address, and loads made-up jobs where there are none. Ctrl+C stops it.",
    "serve": "The same without demo data.",
    "test": "All checks and tests; with paths, those tests alone and only the set-up that they need.",
}
WITH_ENGINE = ("forecast", "findings", "explain", "air", "simulate", "standin", "learn", "next", "search", "build", "commission")
WITHOUT_ENGINE = ("fit", "analyse", "compare", "push", "connect", "plan", "watch", "sound")


def run(root: Path, argv: list[str]) -> int:
    """Dispatches a command line; returns the exit code."""
    command = argv[0] if argv else "help"
    try:
        if command in ("demo", "serve"):
            from launcher.serving import serve  # here: a command that serves nothing need not load it

            given = _options(command).parse_args(argv[1:])
            return serve(root, given.port, demo=command == "demo")
        if command == "test":
            from launcher import checks

            given = _options(command).parse_args(argv[1:])
            return checks.run_all(root, [_test_name(x) for x in given.names], given.quick)
        if command == "bench":
            binary = setup.everything(root, "dev")
            env = {**setup.environment(root), "OVENTA_CHROMIUM": setup.chromium()}
            return subprocess.call([binary, str(root / "tools" / "bench" / "main.py"), *argv[1:]], env=env)
        if command == "study":
            binary = setup.python(root, "base")
            setup.engine(root, binary)
            return subprocess.call([binary, str(root / "tools" / "study" / "main.py"), *argv[1:]], env=setup.environment(root))
        if command in ("backup", "restore"):
            return subprocess.call([setup.python(root, "base"), "-m", "server.keep", *argv], env=setup.environment(root))
        if command in (*WITH_ENGINE, *WITHOUT_ENGINE):
            python = setup.python(root, "base")
            if command in WITH_ENGINE:
                setup.engine(root, python)
            return subprocess.call([python, "-m", "cli", *argv], env=setup.environment(root))
    except SetupError as error:
        say(f"\nStopped: {error.reason}\nWhat to do: {error.remedy}")
        return 1
    except KeyboardInterrupt:
        return 130
    print(USAGE)
    return 0 if command in ("help", "-h", "--help") else 2


def _options(command: str) -> argparse.ArgumentParser:
    """What a command of the launcher's own takes; anything else is an error, and nothing is begun."""
    parser = argparse.ArgumentParser(prog=f"oventa {command}", description=OWN[command])
    if command == "test":
        parser.add_argument("names", nargs="*", metavar="PATH", help="only these test folders, files, classes or tests")
        parser.add_argument("--quick", action="store_true", help="without what takes long; alone: what needs no browser, database or Node")
    else:
        parser.add_argument("--port", type=_port, help=f"default: the first free one from {FIRST_PORT}")
    return parser


def _test_name(path: str) -> str:
    """tests/engine/test_air.py and tests.engine.test_air are the same."""
    return path.removesuffix(".py").strip("/").replace("/", ".")


def _port(text: str) -> int:
    port = int(text)
    if not 1 <= port <= 65535:
        raise argparse.ArgumentTypeError("a port is a number from 1 to 65535")
    return port
