"""Recordings of a test lie in a folder of its own, never among a person's."""

import tempfile
from pathlib import Path
from unittest import TestCase
from unittest.mock import patch

KNOWN_BY = ("server.apps.sounds.services", "server.apps.sounds.packing", "server.apps.sounds.files", "server.api.sounds")


def clips_apart(test: TestCase) -> Path:
    held = tempfile.TemporaryDirectory(prefix="oventa-clips-")
    test.addCleanup(held.cleanup)
    folder = Path(held.name) / "clips"
    for module in KNOWN_BY:
        patched = patch(f"{module}.CLIPS", folder)
        patched.start()
        test.addCleanup(patched.stop)
    return folder
