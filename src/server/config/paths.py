"""Where things lie: the program and the data folder."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parents[3]
DATA = Path(os.environ.get("OVENTA_DATA", ROOT / "var"))
DATABASE = DATA / "oventa.sqlite3"
SECRET_KEY = DATA / "secret-key"
BACKUPS = DATA / "backups"
TASKS = DATA / "tasks"  # files that long work takes or makes
CLIPS = DATA / "clips"  # recordings, as they were handed in
LOCK = DATA / "in-use.lock"
