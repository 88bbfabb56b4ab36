"""Which way does it blow: a fan drawn from one of its sides, turned at random; struts, blades and, at times, arrows tell."""

import numpy as np
from pydantic import BaseModel

from desk.build.drawing import bare_fan_svg
from desk.build.shapes import Side

BECAUSE = {
    "inlet": "No struts are seen and the hub's cap faces you: this is the inlet side, air goes away from you.",
    "outlet": "Struts hold the motor on this side: it is the outlet side, air comes towards you.",
}


class Drill(BaseModel):
    """``svg`` without the mark that tells the way."""

    seed: int
    svg: str


class Drilled(BaseModel):
    right: bool
    towards_you: bool
    side: Side
    because: str
    svg: str


def drill(seed: int) -> Drill:
    side, turn = _drawn(seed)
    return Drill(seed=seed, svg=bare_fan_svg(side, turn, told=False))


def answered(seed: int, towards_you: bool) -> Drilled:
    side, turn = _drawn(seed)
    right = (side == "outlet") == towards_you
    because = f"{BECAUSE[side]} Some makers build otherwise: arrows on the frame and a strip of paper lead."
    return Drilled(right=right, towards_you=side == "outlet", side=side, because=because, svg=bare_fan_svg(side, turn, told=True))


def _drawn(seed: int) -> tuple[Side, int]:
    rng = np.random.default_rng([seed, 5])
    return ("inlet" if rng.random() < 0.5 else "outlet"), int(rng.integers(4)) * 90
