"""Drawings of open sets, fetched from npm once and kept in a folder of the system's temporary files."""

import json
import os
import random
import subprocess
import tarfile
import tempfile
from pathlib import Path

# Sets by short name: the npm package and its version, so that figures stay comparable.
SETS = {
    "openmoji": "openmoji@17.0.0",
    "mdi": "@mdi/svg@7.4.47",
    "tabler": "@tabler/icons@3.52.0",
    "noto": "@iconify-json/noto@1.2.9",
    "twemoji": "@iconify-json/twemoji@1.2.5",
    "maki": "@iconify-json/maki@1.2.5",
    "arcticons": "@iconify-json/arcticons@1.2.58",
    "streamline": "@iconify-json/streamline-ultimate-color@1.2.2",
}
_FOLDER = Path(os.environ.get("ZEICHEN_OPEN_SETS", Path(tempfile.gettempdir()) / "zeichen-open-sets"))
_LINKS = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"'


def open_set(name: str, count: int, *, seed: int = 22) -> list[tuple[str, str]]:
    """Return some drawings of a set, drawn by lot, each with its name; none if the set cannot be fetched."""
    bundle = _fetched(name)
    if bundle is None:
        return []
    with tarfile.open(bundle) as packed:
        found = _icons(packed) if SETS[name].startswith("@iconify") else _files(packed)
    names = sorted(found)
    return [(each, found[each]) for each in random.Random(seed).sample(names, min(count, len(names)))]


def _fetched(name: str) -> Path | None:
    _FOLDER.mkdir(parents=True, exist_ok=True)
    target = _FOLDER / f"{name}.tgz"
    if not target.exists():
        with tempfile.TemporaryDirectory() as folder:
            done = subprocess.run(
                ["npm", "pack", SETS[name], "--silent"],
                cwd=folder,
                capture_output=True,
                text=True,
                check=False,
            )
            made = list(Path(folder).glob("*.tgz"))
            if done.returncode or not made:
                print(f"  {name}: could not be fetched")
                return None
            target.write_bytes(made[0].read_bytes())
    return target


def _icons(packed: tarfile.TarFile) -> dict[str, str]:
    """Return the drawings of a set that comes as one JSON file, each in its frame."""
    data = packed.extractfile("package/icons.json")
    assert data is not None
    whole = json.load(data)
    out = {}
    for name, icon in whole["icons"].items():
        left, top = icon.get("left", 0), icon.get("top", 0)
        width, height = (icon.get(key, whole.get(key, 16)) for key in ("width", "height"))
        frame = f'width="{width}" height="{height}" viewBox="{left} {top} {width} {height}"'
        out[name] = f"<svg {_LINKS} {frame}>{icon['body']}</svg>"
    return out


def _files(packed: tarfile.TarFile) -> dict[str, str]:
    out = {}
    for member in packed.getmembers():
        if member.name.endswith(".svg"):
            data = packed.extractfile(member)
            assert data is not None
            out[member.name] = data.read().decode()
    return out
