#!/usr/bin/env python3
"""Refresh the vendored front-end files from their packages, with licences and checksums.

Needs npm, and fonttools with brotli for the typeface on paper (a PDF wants plain outlines). Run
`python3 tools/vendor.py`, look at the diff, commit it. To move to a newer version change it here.
"""

import hashlib
import io
import json
import subprocess
import tarfile
import tempfile
from pathlib import Path

ROOT = Path(__file__).parent.parent
PAGES = ROOT / "mindful_tally" / "static" / "vendor"
PAPER = ROOT / "rooms" / "common" / "paper" / "fonts"
ATKINSON = "files/atkinson-hyperlegible-next"
ON_PAPER = {
    "atkinson-hyperlegible-next": (
        "@fontsource/atkinson-hyperlegible-next",
        "5.3.0",
        {
            f"{ATKINSON}-{letters}-{weight}-normal.woff2": f"{letters}-{weight}.ttf"
            for letters in ("latin", "latin-ext")
            for weight in (400, 700)
        },
    ),
    "dejavu": (
        "dejavu-fonts-ttf",
        "2.37.3",
        {f"ttf/{name}.ttf": f"{name}.ttf" for name in ("DejaVuSans", "DejaVuSans-Bold")},
    ),
}
ON_PAGES = {
    "bootstrap": ("bootstrap", "5.3.9", {"dist/css/bootstrap.min.css": "bootstrap.min.css"}),
    "htmx": ("htmx.org", "2.0.11", {"dist/htmx.min.js": "htmx.min.js"}),
    "uplot": (
        "uplot",
        "1.6.32",
        {"dist/uPlot.iife.min.js": "uplot.min.js", "dist/uPlot.min.css": "uplot.min.css"},
    ),
    "atkinson-hyperlegible-next": (
        "@fontsource-variable/atkinson-hyperlegible-next",
        "5.3.0",
        {"files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "latin-wght-normal.woff2"},
    ),
}


def plain_outlines(data, name):
    """A web font as a font file that is not compressed, under a name of its own: a PDF keeps
    faces of one name apart by nothing else."""
    from fontTools.ttLib import TTFont

    font, out = TTFont(io.BytesIO(data), recalcTimestamp=False), io.BytesIO()
    font.flavor = None
    for record in font["name"].names:
        if record.nameID == 6:
            record.string = f"{record.toUnicode()}-{Path(name).stem}"
    font.save(out)
    return out.getvalue()


def made(source, name, data):
    if name.endswith(".css"):  # the source map is not shipped
        return b"\n".join(line for line in data.split(b"\n") if b"sourceMappingURL" not in line)
    if source.endswith(".woff2") and name.endswith(".ttf"):
        return plain_outlines(data, name)
    return data


def refresh(vendor, packages):
    notes = []
    for folder, (package, version, files) in packages.items():
        target = vendor / folder
        target.mkdir(parents=True, exist_ok=True)
        with tempfile.TemporaryDirectory() as work:
            subprocess.run(
                ["npm", "pack", "--silent", f"{package}@{version}"], cwd=work, check=True
            )
            with tarfile.open(next(Path(work).glob("*.tgz"))) as archive:

                def read(name, archive=archive):
                    return archive.extractfile(f"package/{name}").read()

                about = json.loads(read("package.json"))
                (target / "LICENSE").write_bytes(read("LICENSE"))
                for source, name in files.items():
                    data = made(source, name, read(source))
                    (target / name).write_bytes(data)
                    notes.append(
                        {
                            "file": f"{folder}/{name}",
                            "package": package,
                            "version": about["version"],
                            "licence": about.get("license", "see LICENSE"),
                            "sha256": hashlib.sha256(data).hexdigest(),
                        }
                    )
    (vendor / "vendor.json").write_text(json.dumps(notes, indent=2) + "\n")


if __name__ == "__main__":
    refresh(PAGES, ON_PAGES)
    refresh(PAPER, ON_PAPER)
