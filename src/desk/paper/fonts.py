"""The application's own fonts as data for a page that fetches nothing."""

import base64
from pathlib import Path

FONTS = {"Archivo": "archivo-latin-wdth-normal", "Spline Sans Mono": "spline-sans-mono-latin-wght-normal"}
BUILT = Path(__file__).resolve().parents[3] / "frontend" / "dist" / "assets"


def fonts() -> list[tuple[str, str]]:
    """Family and data; none where the front end has not been built."""
    found = []
    for family, stem in FONTS.items():
        files = sorted(BUILT.glob(f"{stem}-*.woff2"))
        if files:
            found.append((family, base64.b64encode(files[0].read_bytes()).decode()))
    return found
