"""``./oventa learn``: what a package's runs teach of its case, and every layout's forecast with it."""

import argparse
from typing import Any

from cli.files import read_bytes
from cli.output import EXIT_DONE, print_json, say
from desk.learn.document import Learning, LearningDoc
from desk.learn.packaged import PackedRuns, packed_runs
from desk.learn.readings import LeftAside, readings
from desk.learn.swept import swept
from desk.next.document import Deciding, last_layout
from desk.words.counted import counted
from engine.errors import OventaError


def read_package(path: str) -> PackedRuns:
    return packed_runs(read_bytes(path))


def learning_of(packed: PackedRuns) -> Learning:
    """What the valid runs of a package taught."""
    sound = swept(packed.doc, packed.sweeps)
    doc = packed.whole.model_copy(update={"layouts": [*packed.whole.layouts, *sound.layouts]})
    found = readings(doc, packed.by_load, packed.names, packed.earlier)
    found.left_aside += [LeftAside(name, why) for name, why in packed.not_counted]
    return Learning.of(doc, sound.beside(found)).told_of(packed.doc)


def learn(args: argparse.Namespace) -> int:
    learning = learning_of(read_package(args.package))
    doc = learning.document(args.load)
    if args.json:
        print_json(doc)
    else:
        _table(doc)
    return EXIT_DONE


def following(args: argparse.Namespace) -> int:
    """What to run next, or that no further run is likely to change the pick."""
    packed = read_package(args.package)
    if args.margin_k is not None and not 0 < args.margin_k <= 20:
        raise OventaError("the margin is from 0 to 20 K", "--margin-k", "Give what does not matter to you, in K.")
    learning = learning_of(packed)
    margin = args.margin_k or packed.doc.practice.margin_k
    doc = Deciding(learning, margin, args.hours, last_layout(learning, packed.by_time)).document()
    if args.json:
        print_json(doc)
        return EXIT_DONE
    print(doc.why)
    for c in doc.candidates:
        print(f"{c.layout:<6}{c.kind:<9}{c.minutes:5.0f} min  {c.gain_k:5.2f} K  {c.gain_k_per_h:5.2f} K/h  {c.why}")
    return EXIT_DONE


def _table(doc: LearningDoc) -> None:
    said = counted(len(doc.runs_used), "run") + (f" and {counted(len(doc.sweeps), 'sweep')}" if doc.sweeps else "")
    print(f"learned from {said}, load {doc.load}; over room, 95 % band")
    print(f"{'layout':<10}{'processor':>18}{'by sheets':>18}{'measured':>10}{'card':>18}{'by sheets':>18}{'measured':>10}")
    for x in doc.layouts:
        m = x.measured
        cpu, card = (f"{v:.1f} K" if v is not None else "-" for v in (m and m.cpu_rise_k, m and m.card_rise_k))
        pair = [x.cpu, x.unlearned.cpu, x.card, x.unlearned.card]
        told = [f"{r.rise_k:.1f} ±{r.band_k:.1f} K" if r else "none" for r in pair]
        print(f"{x.id:<10}{told[0]:>18}{told[1]:>18}{cpu:>10}{told[2]:>18}{told[3]:>18}{card:>10}")
    for words in doc.parts:
        print(f"known of its parts: {words}")
    for kept in doc.to_keep:
        print(f"could go along with its part: {'; '.join(kept.words)}")
    for odd in doc.contradictions:
        words = "; ".join(f"{c.words} ({c.explains_pct:.0f} %)" for c in odd.causes) or "nothing that was tried explains it"
        say(f"{odd.run} ({odd.layout}, {odd.channel}): read {odd.measured_k:.1f} K, the others expect {odd.forecast_k:.1f} K. {words}")
    for a in doc.left_aside:
        say(f"left aside: {a.run}: {a.why}")


def add_commands(commands: Any) -> None:
    one = commands.add_parser("learn", help="what a package's runs teach of its case: forecasts of all its layouts with narrower bands")
    one.add_argument("package", metavar="PACKAGE.zip")
    one.add_argument("--load", choices=("idle", "cpu", "card", "both"))
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=learn)
    two = commands.add_parser("next", help="what to run next, or that nothing further is likely to change the pick")
    two.add_argument("package", metavar="PACKAGE.zip")
    two.add_argument("--margin-k", type=float, metavar="K", help="what does not matter to you; the job's own if none is given")
    two.add_argument("--hours", type=float, metavar="H", help="bench time that is left")
    two.add_argument("--json", action="store_true")
    two.set_defaults(run=following)
