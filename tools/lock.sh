#!/bin/sh
# Lock requirements/*.in with hashes and without naming any host. Takes some minutes.
set -eu
cd "$(dirname "$0")/../requirements"
tools=$(mktemp -d)
python3 -m venv "$tools"
"$tools/bin/pip" install --quiet pip-tools
for name in base dev; do
    echo "lock: $name"
    "$tools/bin/pip-compile" --quiet --no-header --generate-hashes --no-emit-index-url --no-emit-find-links \
        --no-emit-trusted-host --strip-extras --allow-unsafe "$name.in" -o "$name.txt"
done
rm -rf "$tools"
