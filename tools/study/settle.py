"""``./oventa study --settle N``: the settle call over thousands of seeds; writes docs/evidence-settle.md.

Responses of first and second order with known ends, as fine, coarse and noisy sensors read them; and runs of the stand-in bench.
"""

import time
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from engine.runs.settle import MOST_REMAINING_K, approach

ROOT = Path(__file__).resolve().parents[2]
Floats = NDArray[np.float64]
SENSORS = ((0.0, 0.3), (0.1, 0.3), (1.0, 0.8), (1.0, 2.0))  # step and noise in K
TAUS = ((400.0,), (60.0, 500.0), (30.0, 900.0))
MOMENTS = (1.5, 2.5, 3.5, 4.5, 6.0, 8.0)  # in slow taus


def response(t: Floats, seed: int, taus: tuple[float, ...], step: float, noise: float) -> tuple[Floats, float, Floats]:
    """What a sensor reads, the true end, and the truth."""
    rng = np.random.default_rng(seed)
    end = float(rng.uniform(30, 60))
    if len(taus) == 1:
        left = end * np.exp(-t / taus[0])
    else:
        left = end * (taus[1] * np.exp(-t / taus[1]) - taus[0] * np.exp(-t / taus[0])) / (taus[1] - taus[0])
    truth = end - left
    read = truth + rng.normal(0, noise, len(t))
    return (np.round(read / step) * step if step else read), end, truth


def main(seeds: int, first: int = 1) -> int:
    started = time.perf_counter()
    lines = [
        "# Evidence: the settle call",
        "",
        f"Made by `./oventa study --settle {seeds} --seed {first}` on {datetime.now(UTC):%Y-%m-%d}. A call is wrong when it says settled",
        f"with more than {MOST_REMAINING_K} K left; the stated rate is 5 %. The band on the end value should hold 95 % of the ends.",
        "",
        "| time constants, s | sensor's step, noise, K | slow constants gone by | left, K | settled said | wrong | end in its band |",
        "|---|---|---|---|---|---|---|",
    ]
    worst = 0.0
    for taus in TAUS:
        for step, noise in SENSORS:
            for moment in MOMENTS:
                t: Floats = np.arange(0.0, moment * taus[-1])
                said = wrong = inside = fits = 0
                left = 0.0
                for seed in range(first, first + seeds):
                    y, end, truth = response(t, seed, taus, step, noise)
                    fit = approach(t, y)
                    left = max(left, end - float(truth[-1]))
                    if fit is None:
                        continue
                    fits += 1
                    said += fit.settled
                    wrong += fit.settled and end - float(truth[-1]) > MOST_REMAINING_K
                    inside += abs(fit.final - end) <= fit.final_band
                worst = max(worst, wrong / seeds)
                shares = f"{100 * said / seeds:.1f} % | {100 * wrong / seeds:.1f} % | {100 * inside / max(fits, 1):.1f} %"
                names = " and ".join(f"{x:g}" for x in taus)
                lines.append(f"| {names} | {step:g}, {noise:g} | {moment:g} | up to {left:.2f} | {shares} |")
    lines += ["", f"Largest share of wrong calls: {100 * worst:.1f} %. {time.perf_counter() - started:.0f} s."]
    text = "\n".join(lines) + "\n"
    (ROOT / "docs" / "evidence-settle.md").write_text(text, encoding="utf-8")
    print(text)
    return 1 if worst > 0.05 else 0
