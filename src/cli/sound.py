"""``./oventa sound``: a clip's levels, tones and beats."""

import argparse
import sys
from dataclasses import replace
from pathlib import Path
from typing import Any

from cli.output import EXIT_DONE, print_json, say
from desk.sound.document import SoundDoc, loudness_of, sound_document, sound_of
from documents.soundclip.reader import open_clip
from engine.errors import ImpossibleInputError

SAID_SHARE = 0.1  # of a clip between two words of progress
LONG_S = 60.0


def clip(args: argparse.Namespace) -> int:
    if (args.calibration_clip is None) != (args.calibration_db is None):
        raise ImpossibleInputError(
            "a calibrator has a clip and a level", "--calibration-clip", "Give --calibration-clip and --calibration-db."
        )
    if args.calibration_clip is not None and args.meter_dba is not None:
        raise ImpossibleInputError("two ways to tie the clip to a level", "--meter-dba", "Give the calibrator or the meter, not both.")
    for name, level in (("--calibration-db", args.calibration_db), ("--meter-dba", args.meter_dba)):
        if level is not None and not 0 < level < 150:
            raise ImpossibleInputError(f"{level:g} dB is no level", name, "Give it in dB, such as 94.")
    opened = open_clip(Path(args.clip), args.clip)
    calibration = (open_clip(Path(args.calibration_clip), args.calibration_clip), args.calibration_db) if args.calibration_clip else None
    found = sound_of(opened, calibration, args.meter_dba, progress=_telling() if opened.seconds > LONG_S else None)
    if found.calibrated:
        found = replace(found, loudness_sone=loudness_of(opened, found))
    doc = sound_document(found)
    if args.json:
        print_json(doc)
    else:
        _table(doc)
    return EXIT_DONE


def _telling() -> Any:
    told = [0.0]

    def tell(share: float) -> None:
        if share - told[0] >= SAID_SHARE or share == 1.0:
            told[0] = share
            print(f"\r{100 * share:.0f} %", end="\n" if share == 1.0 else "", file=sys.stderr, flush=True)

    return tell


def _table(doc: SoundDoc) -> None:
    unit = "dBA" if doc.calibrated else "dB re full scale"
    print(f"{doc.duration_s:.1f} s, {doc.channels} channel{'s' if doc.channels > 1 else ''}, {doc.rate_hz} Hz")
    tenths = f"passed in a tenth of the time {doc.la10_dba:.1f}, in nine {doc.la90_dba:.1f}"
    print(f"mean {doc.laeq_dba:.1f} {unit}, highest {doc.lafmax_dba:.1f}, {tenths}")
    if doc.loudness_sone is not None:
        print(f"loudness {doc.loudness_sone:.2f} sone")
    for t in doc.tones:
        mark = "prominent" if t.prominent else ""
        print(f"tone {t.frequency_hz:9.1f} Hz  {t.level_db:6.1f} dB, {t.tone_to_noise_db:+.1f} dB beside its noise  {mark}")
    for b in doc.beats:
        print(f"beat {b.frequency_hz:9.2f} Hz  {b.depth_db:.1f} dB {'' if b.band_hz is None else f'about {b.band_hz:.0f} Hz'}")
    for f in doc.flags:
        say(f"{f.from_s:.1f} to {f.to_s:.1f} s: {f.detail}")
    if not doc.calibrated:
        say("not tied to a level: only to be held against clips of the same recorder at the same gain")


def add_commands(commands: Any) -> None:
    one = commands.add_parser("sound", help="levels, tones and beats of a clip")
    one.add_argument("clip", metavar="CLIP.wav")
    one.add_argument("--calibration-clip", metavar="CAL.wav", help="a calibrator at the same gain")
    one.add_argument("--calibration-db", type=float, metavar="DB", help="its level, such as 94")
    one.add_argument("--meter-dba", type=float, metavar="DBA", help="a meter's reading at the same place and moment")
    one.add_argument("--json", action="store_true")
    one.set_defaults(run=clip)
