"""ASGI entry point."""

import os
import threading
import warnings

from django.core.asgi import get_asgi_application

from formats.forecast.warm import warm_engine

# Whitenoise hands files over synchronously; Django notes it once per process and serves them correctly.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

threading.Thread(target=warm_engine, daemon=True, name="warm-engine").start()  # kernels load while the person opens a job
application = get_asgi_application()

# These need the applications, so they come after them.
from server.apps.bench.players import start_all  # noqa: E402
from server.apps.bench.showing import show_live_run  # noqa: E402

threading.Thread(target=start_all, daemon=True, name="instruments").start()
if os.environ.get("OVENTA_DEMO_URL"):
    threading.Thread(target=show_live_run, args=(os.environ["OVENTA_DEMO_URL"],), daemon=True, name="demo-run").start()
