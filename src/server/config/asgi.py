"""ASGI entry point."""

import os
import sys
import threading
import warnings

from django.core.asgi import get_asgi_application

from desk.forecast.warm import warm_engine
from server.keep.start import copy_daily, look_before_serving
from server.keep.words import KeepError

try:
    stored = look_before_serving()
except KeepError as error:
    sys.exit(f"{error.what}.\nWhat to do: {error.do}")

# Posts of readings are answered between the steps of longer work: who waits for the interpreter gets it within a millisecond.
sys.setswitchinterval(0.001)

# Whitenoise hands files over synchronously; Django notes it once per process and serves them correctly.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

threading.Thread(target=warm_engine, daemon=True, name="warm-engine").start()  # kernels load while the person opens a job
application = get_asgi_application()

# These need the applications, so they come after them.
from django.db import connection  # noqa: E402

from server.apps.bench.players import start_all  # noqa: E402
from server.apps.bench.showing import show_live_run  # noqa: E402
from server.apps.jobs.services import empty_bin  # noqa: E402


def begin() -> None:
    """What a start of the server takes up again, and what is due."""
    try:
        empty_bin()
    finally:
        connection.close()  # this thread's own
    start_all()


copy_daily(stored)
threading.Thread(target=begin, daemon=True, name="begin").start()
if os.environ.get("OVENTA_DEMO_URL"):
    threading.Thread(target=show_live_run, args=(os.environ["OVENTA_DEMO_URL"],), daemon=True, name="demo-run").start()
