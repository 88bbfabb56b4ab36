"""Lays a report out as PDF in a process of its own, which may take no longer, no more memory and nothing from outside.

Run as a module it reads HTML and writes PDF; the server starts it for each report, a few at a time.
"""

import os
import subprocess
import sys
import threading

from engine.errors import OventaError

WALL_S, CPU_S = 180.0, 40  # a machine that is busy needs longer for the same work
MEMORY = 3 * 1024**3
MOST_HTML = 30 * 1024 * 1024
AT_ONCE = threading.BoundedSemaphore(2)
NO_LIBRARY = 3


class NoPdfError(OventaError):
    """The library that writes PDF does not run on this machine."""

    code = "no_pdf"


class TooHeavyError(OventaError):
    """The report asks for more time or memory than any honest one."""

    code = "report_too_heavy"


def pdf_of(page: str) -> bytes:
    """The page on paper. Raises NoPdfError where the machine lacks the text library, TooHeavyError past the limits."""
    if len(page) > MOST_HTML:
        raise _too_heavy()
    with AT_ONCE:
        try:
            done = subprocess.run(
                [sys.executable, "-m", __name__], input=page.encode("utf-8", "replace"), capture_output=True, timeout=WALL_S, check=False
            )
        except subprocess.TimeoutExpired as error:
            raise _too_heavy() from error
    if done.returncode == NO_LIBRARY:
        do = "Install Pango (on Debian: apt-get install libpango-1.0-0 libpangoft2-1.0-0), or print the HTML report from the browser."
        raise NoPdfError("this machine cannot write PDF: the Pango library is missing", "report.pdf", do)
    if done.returncode or not done.stdout.startswith(b"%PDF"):
        raise _too_heavy()
    return done.stdout


def _too_heavy() -> TooHeavyError:
    do = "Open the HTML report and print it from the browser; the record itself is whole."
    return TooHeavyError("the report could not be laid out within its limits of time and memory", "report.pdf", do)


def _limit() -> None:
    if os.name == "posix":
        import resource

        resource.setrlimit(resource.RLIMIT_CPU, (CPU_S, CPU_S + 2))
        resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
        resource.setrlimit(resource.RLIMIT_CORE, (0, 0))


def write() -> int:
    """Standard input to standard output; only what the page carries itself is read."""
    _limit()
    try:
        from weasyprint import HTML  # loads shared libraries, so only here
        from weasyprint.urls import URLFetcher
    except OSError:
        return NO_LIBRARY
    page = sys.stdin.buffer.read().decode()
    fetcher = URLFetcher(allowed_protocols=("data",), allow_redirects=False)
    sys.stdout.buffer.write(HTML(string=page, url_fetcher=fetcher).write_pdf())
    return 0


if __name__ == "__main__":
    sys.exit(write())
