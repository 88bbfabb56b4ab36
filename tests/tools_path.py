"""Puts the launcher's folder on the path: it is not part of the application."""

import sys

from tests.machines import ROOT

if str(ROOT / "tools") not in sys.path:
    sys.path.insert(0, str(ROOT / "tools"))
