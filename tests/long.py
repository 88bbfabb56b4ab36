"""Which tests take long: written down from the times of the last whole run, and left out by ``./oventa test --quick``.

``python -m tests.long`` after a whole run. The list is measured and not typed, so that nobody need think of it at each new test.
"""

from collections.abc import Iterable
from pathlib import Path

LIST = Path(__file__).with_name("long.txt")
TIMES = Path(__file__).resolve().parents[1] / "var" / "test-times.txt"
ROOMS = ("tests.cli.", "tests.desk.", "tests.documents.", "tests.engine.")  # what --quick runs
LONG_S = 0.7  # what is left then takes under a minute on two processors


def named() -> frozenset[str]:
    """Tests of the list, by their whole names; none where there is no list."""
    return frozenset(LIST.read_text(encoding="utf-8").split()) if LIST.is_file() else frozenset()


def long_ones(times: Iterable[str]) -> list[str]:
    """From lines ``seconds name``: the names of what took long, in order."""
    pairs = (line.split(" ", 1) for line in times if line.strip())
    return sorted({name.strip() for seconds, name in pairs if float(seconds) > LONG_S and name.startswith(ROOMS)})


def main() -> None:
    found = long_ones(TIMES.read_text(encoding="utf-8").splitlines())
    LIST.write_text("\n".join(found) + "\n", encoding="utf-8")
    print(f"{len(found)} tests take longer than {LONG_S} s")


if __name__ == "__main__":
    main()
