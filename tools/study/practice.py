"""``./oventa study --practice``: machines of the trainer against the findings of the very same document, read anew from what it writes."""

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field

from desk.forecast.document import Oracle, Question
from desk.practice.exercise import CODES, FAULTS, KINDS, PLACED, exercise
from documents.job.reader import check_job
from study.tally import Adding, over_seeds


@dataclass
class Tally(Adding):
    machines: int = 0
    agree: int = 0
    kinds: list[str] = field(default_factory=list)


def row(job: tuple[int, int, int]) -> Tally:
    level, first, count = job
    found = Tally()
    for seed in range(first, first + count):
        made = exercise(seed, level)
        doc = check_job(made.doc.model_dump(mode="json", exclude_unset=True)).doc
        told = Oracle(doc, Question()).findings_doc().layouts[0].findings
        by_kind = {k: {m for f in told if f.code in CODES[k] for m in f.mounts} for k in KINDS if any(f.code in CODES[k] for f in told)}
        found.machines += 1
        found.agree += set(by_kind) == set(made.answer) and all(by_kind[k] == made.answer[k] for k in by_kind if k in PLACED)
        found.kinds += list(made.answer)
    return found


def main(seeds: int, first: int, write: Callable[[str], object]) -> int:
    totals = over_seeds(row, tuple(FAULTS), Tally, seeds, first)
    lines = [
        "# Evidence: practice",
        "",
        f"Made by `./oventa study --practice {seeds} --seed {first}`: the trainer's answers against the findings of the same document.",
        "",
        "| level | machines | answers that agree | kinds that came up |",
        "|---|---|---|---|",
    ]
    for level, t in totals.items():
        kinds = ", ".join(f"{k} {n}" for k, n in Counter(t.kinds).most_common())
        lines.append(f"| {level} | {t.machines} | {t.agree} | {kinds} |")
    text = "\n".join(lines) + "\n"
    print(text)
    write(text)
    return 0 if all(t.agree == t.machines for t in totals.values()) else 1
