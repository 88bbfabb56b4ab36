"""A run log as the format's own CSV: UTF-8, comma, header row, elapsed seconds first, an empty cell where there is no reading."""

import csv
import io

import numpy as np

from engine.runs.series import RunLog


def write_log(log: RunLog) -> str:
    """Text of a log; readings to the thousandth, so that what is read back gives the same figures."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    names = list(log.channels)
    writer.writerow(["elapsed_s", *names])
    columns = [log.channels[n] for n in names]
    for i, t in enumerate(log.elapsed_s.tolist()):
        writer.writerow([_cell(t), *(_cell(float(c[i])) for c in columns)])
    return out.getvalue()


def _cell(value: float) -> str:
    return f"{value:.3f}".rstrip("0").rstrip(".") if np.isfinite(value) else ""
