"""ASGI entry point."""

import warnings

from django.core.asgi import get_asgi_application

# Whitenoise hands files over synchronously; Django notes it once per process and serves them correctly.
warnings.filterwarnings("ignore", message="StreamingHttpResponse must consume synchronous iterators")

application = get_asgi_application()
