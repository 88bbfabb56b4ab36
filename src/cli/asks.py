"""``./oventa forecast``, ``findings``, ``explain``, ``air``, ``fit``: what is asked of a job document."""

import argparse
import json
from dataclasses import asdict
from typing import Any

from cli.files import read_bytes
from cli.output import EXIT_DONE, EXIT_NOT_CONVERGED, print_json, say
from desk.forecast.document import ForecastDoc, Oracle, Question
from desk.forecast.insight import Insight
from desk.forecast.warm import warm_engine
from desk.together.fit import ledger_of
from documents.job.models import JobDoc
from documents.job.reader import read_job
from engine.coupled.explain import FIGURES
from engine.errors import OventaError


def _read(args: argparse.Namespace) -> tuple[JobDoc, Question]:
    read = read_job(read_bytes(args.job))
    for path in read.unknown_fields:
        say(f"note: {path} is not known to this version; it is kept and not used.")
    question = Question(
        layouts=args.layout,
        load=getattr(args, "load", "both"),
        room_c=getattr(args, "room", None),
        against=getattr(args, "against", None),
        minutes=getattr(args, "minutes", None),
        every_s=getattr(args, "every", 60.0),
        target_dba=getattr(args, "target_dba", None),
    )
    return read.doc, question


def _oracle(args: argparse.Namespace) -> Oracle:
    return Oracle(*_read(args))


def forecast(args: argparse.Namespace) -> int:
    """Prints the forecast document, or a short table without ``--json``; with ``--learned`` as a package's runs have taught."""
    doc = _as_learned(args) if args.learned else _oracle(args).forecast_doc()
    if args.json:
        print_json(doc)
    else:
        _table(doc)
    return EXIT_DONE if all(x.converged for x in doc.layouts) else EXIT_NOT_CONVERGED


def _as_learned(args: argparse.Namespace) -> ForecastDoc:
    from cli.learn import learning_of, read_package  # here: most forecasts are asked from sheets alone
    from desk.learn.document import LearnedOracle

    doc, question = _read(args)
    learning = learning_of(read_package(args.learned))
    if question.target_dba is not None or question.minutes is not None:
        raise OventaError("a learned forecast is of settled layouts", "--learned", "Ask without --minutes and --target-dba.")
    return LearnedOracle(learning.about(doc), question).forecast_doc()


def _table(doc: ForecastDoc) -> None:
    print(f"{'layout':<24}{'processor':>18}{'card':>18}{'sound':>10}   over room, 95 % band")
    for x in doc.layouts:
        card = f"{x.card.rise_k:7.1f} ±{x.card.band_k:4.1f} K" if x.card else "none"
        print(f"{x.id:<24}{x.cpu.rise_k:8.1f} ±{x.cpu.band_k:4.1f} K{card:>18}{x.sound.level_dba:6.1f} dBA")


def findings(args: argparse.Namespace) -> int:
    doc = _oracle(args).findings_doc()
    if args.json:
        print_json(doc)
        return EXIT_DONE
    for x in doc.layouts:
        print(f"{x.id}: {'nothing found' if not x.findings else ''}")
        for f in x.findings:
            print(f"  {f.severity}: {f.what}. {f.because} {f.do}" + (f" (accepted: {f.accepted})" if f.accepted else ""))
    return EXIT_DONE


def explain(args: argparse.Namespace) -> int:
    """Prints the account behind a figure of the first layout named, step by step."""
    account = Insight(_oracle(args)).account(args.figure)
    if args.json:
        print(json.dumps(asdict(account), indent=1, ensure_ascii=False))
        return EXIT_DONE
    print(account.title)
    for step in account.steps:
        print(f"  {step.what:<52}{step.value:9.2f} {step.unit}")
        for part in step.parts:
            print(f"      {part.what:<48}{part.value:9.2f} {part.unit}")
        if step.formula:
            print(f"      {step.formula}")
        if step.source:
            print(f"      [{step.source}]")
    return EXIT_DONE


def air(args: argparse.Namespace) -> int:
    """Prints age and own share of the air of the first layout named, and where smoke let out in a space goes."""
    found = Insight(_oracle(args)).air(args.space)
    if args.json:
        print(json.dumps(asdict(found), indent=1, ensure_ascii=False))
        return EXIT_DONE
    for space, age in found.picture.age_s.items():
        smoke = f"{100 * found.tracer.concentration[space]:6.0f} % smoke" if found.tracer else ""
        print(f"{space:<16}{age:6.1f} s old{smoke}")
    for way in found.tracer.exits if found.tracer else ():
        print(f"leaves by {way.name:<24}{100 * way.share:5.0f} %")
    return EXIT_DONE


def fit(args: argparse.Namespace) -> int:
    """Prints the clearance ledger of the first layout named, tightest first."""
    doc, question = _read(args)
    found = ledger_of(doc, Oracle(doc, question).layout_ids[0])
    if args.json:
        print_json(found)
        return EXIT_DONE
    for x in found.lines:
        words = {"fits": "", "touches": "touches", "does_not_fit": "does not fit"}[x.verdict]
        print(
            f"{x.what:<44}{x.required_mm:7.0f} of {x.available_mm:5.0f} mm  spare {x.spare_mm:+5.0f}, at worst {x.worst_mm:+5.0f}  {words}"
        )
    for missing in found.not_checked:
        say(f"not checked: {missing}")
    return EXIT_DONE


def warm(args: argparse.Namespace) -> int:
    """For the launcher's set-up; nobody need call it."""
    warm_engine()
    return EXIT_DONE


def add_commands(commands: Any) -> None:
    one = commands.add_parser("forecast", help="what each layout of a job will probably do")
    two = commands.add_parser("findings", help="what an experienced builder would say of each layout")
    three = commands.add_parser("explain", help="how a figure of the forecast came about")
    four = commands.add_parser("air", help="how old the air is, and where smoke goes")
    five = commands.add_parser("fit", help="what fits, with how many millimetres to spare")
    for command in (one, two, three, four, five):
        command.add_argument("job", metavar="JOB.json")
        command.add_argument("--layout", action="append", metavar="ID")
        command.add_argument("--json", action="store_true")
    for command in (one, three, four):
        command.add_argument("--load", choices=("idle", "cpu", "card", "both"), default="both")
        command.add_argument("--room", type=float, metavar="C")
    three.add_argument("--figure", choices=FIGURES, default="cpu")
    four.add_argument("--space", metavar="SPACE")
    one.add_argument("--against", metavar="ID")
    one.add_argument("--minutes", type=float, metavar="M")
    one.add_argument("--every", type=float, default=60.0, metavar="S")
    one.add_argument("--learned", metavar="PACKAGE.zip", help="as the runs of a package have taught")
    one.add_argument("--target-dba", type=float, metavar="L")
    one.set_defaults(run=forecast)
    two.set_defaults(run=findings)
    three.set_defaults(run=explain)
    four.set_defaults(run=air)
    five.set_defaults(run=fit)
    commands.add_parser("warm", help="compile the engine, once per machine").set_defaults(run=warm)
