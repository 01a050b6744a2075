#!/usr/bin/env python3
"""Refresh the vendored front-end files from their packages, with licences and checksums.

Needs npm. Run `python3 tools/vendor.py`, look at the diff, commit it. To move to a newer
version change it here.
"""

import hashlib
import json
import subprocess
import tarfile
import tempfile
from pathlib import Path

VENDOR = Path(__file__).parent.parent / "mindful_tally" / "static" / "vendor"
PACKAGES = {
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


def main():
    notes = []
    for folder, (package, version, files) in PACKAGES.items():
        target = VENDOR / folder
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
                    data = read(source)
                    if name.endswith(".css"):  # the source map is not shipped
                        data = b"\n".join(
                            line for line in data.split(b"\n") if b"sourceMappingURL" not in line
                        )
                    (target / name).write_bytes(data)
                    notes.append(
                        {
                            "file": f"{folder}/{name}",
                            "package": package,
                            "version": about["version"],
                            "licence": about["license"],
                            "sha256": hashlib.sha256(data).hexdigest(),
                        }
                    )
    (VENDOR / "vendor.json").write_text(json.dumps(notes, indent=2) + "\n")


if __name__ == "__main__":
    main()
