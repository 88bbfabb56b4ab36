"""ASGI entry point."""

import gc
import os
import sys
import threading
import warnings

from django.core.asgi import get_asgi_application
from pydantic import BaseModel

from server.keep.start import copy_daily, look_before_serving
from server.keep.words import KeepError

gc.disable()  # while all is loaded: collecting it again and again is a tenth of a start
BaseModel.model_config["defer_build"] = True  # a shape is built when it is first asked for: few of 700 at a start

try:
    stored = look_before_serving()
except KeepError as error:
    sys.exit(f"{error.what}.\nWhat to do: {error.do}")

# Posts of readings are answered between the steps of longer work: who waits for the interpreter gets it within a millisecond.
sys.setswitchinterval(0.001)

# Whitenoise hands files over synchronously; Django notes it once per process and serves them correctly.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")


def warm() -> None:
    """Kernels load while the person opens a job."""
    from desk.forecast.warm import warm_engine

    warm_engine()


application = get_asgi_application()

# These need the applications, so they come after them.
from django.conf import settings  # noqa: E402
from django.db import connection  # noqa: E402

from server import loading  # noqa: E402
from server.apps.bench import figures  # noqa: E402
from server.apps.bench.players import start_all  # noqa: E402
from server.apps.bench.showing import show_live_run  # noqa: E402
from server.apps.chores.demo import Demo  # noqa: E402
from server.apps.jobs.services import empty_bin  # noqa: E402
from server.apps.library.services import load_shipped  # noqa: E402
from server.apps.tasks.services import take_up  # noqa: E402
from server.config.paths import DATA  # noqa: E402
from server.config.urls import urlpatterns  # noqa: E402, F401  (every route, before other threads want the interpreter)

DEMO_URL = os.environ.get("OVENTA_DEMO_URL")
load_shipped(settings.ROOT / "demo" / "library")
demo = Demo(DATA / "demo.json") if DEMO_URL else None
if demo:
    demo.load_jobs()
connection.close()

gc.freeze()  # what is loaded now stays
gc.enable()


def begin() -> None:
    """What a start of the server takes up again, what is due, and what takes longer than the first page may wait."""
    try:
        empty_bin()
        start_all()
        take_up()
        if old := figures.of_older_method():
            with loading.saying(f"The figures of {len(old)} runs are being worked out anew: the way of judging has changed."):
                figures.reckon_anew(old)
        if demo:
            demo.load_runs()
            demo.find()
    finally:
        connection.close()  # this thread's own


threading.Thread(target=warm, daemon=True, name="warm-engine").start()
copy_daily(stored)
threading.Thread(target=begin, daemon=True, name="begin").start()
if DEMO_URL:
    threading.Thread(target=show_live_run, args=(DEMO_URL,), daemon=True, name="demo-run").start()
