"""The account behind a learned figure: the parts' sheets first, then what runs have added to them."""

from dataclasses import replace

from desk.words.counted import counted
from engine.coupled.explain import Account, Part, Step
from engine.learn.case import LearnedFigure
from engine.learn.levels import LearnedLevel
from engine.sources import SOURCES

RISE_FORMULA = "model error shared by likeness of layouts, parameters by Gauss-Newton; every reading by its own uncertainty"
LEVEL_FORMULA = "each source's level on its sheet plus what readings say of it, its way out and its rise with speed; they add by energy"
BAND_FORMULA = "2 √(variance that the runs leave open)"


def with_rise(plain: Account, by_sheets_k: float, found: LearnedFigure, runs: int) -> Account:
    """The account of a part's rise as learned."""
    parts = [
        Part("by the parts' sheets", by_sheets_k, "K"),
        Part("the model's parameters as the runs have them", found.parameters_k - by_sheets_k, "K"),
    ]
    if found.limited:
        parts.append(Part("beyond that nothing: it is held at its limit", 0.0, "K"))
    else:
        parts.append(Part("what runs of like layouts say beyond that", found.rise_k - found.parameters_k, "K"))
    return _with(plain, Step(f"{_taught(runs)}, over room", found.rise_k, "K", RISE_FORMULA, _source(), tuple(parts)), found.band_k, "± K")


def with_level(plain: Account, by_sheets_dba: float, found: LearnedLevel, runs: int, sweeps: int = 0) -> Account:
    """The account of the level at the listener as learned."""
    parts = (Part("by the parts' sheets", by_sheets_dba, "dBA"), Part("what was heard", found.level_dba - by_sheets_dba, "dB"))
    return _with(plain, Step(_taught(runs, sweeps), found.level_dba, "dBA", LEVEL_FORMULA, _source(), parts), found.band_db, "± dB")


def _with(plain: Account, step: Step, band: float, unit: str) -> Account:
    return replace(plain, steps=(*plain.steps, step, Step("95 % band as learned", band, unit, BAND_FORMULA, SOURCES["gum"])))


def _taught(runs: int, sweeps: int = 0) -> str:
    said = [counted(n, what) for n, what in ((runs, "run"), (sweeps, "sweep of speeds")) if n]
    return f"As {' and '.join(said) or 'nothing'} {'has' if runs + sweeps == 1 else 'have'} taught"


def _source() -> str:
    return f"{SOURCES['rasmussen']} {SOURCES['gum']}"
