#!/bin/sh
# Set up what a make target needs: base (to run), dev (to check and test), chromium.
# A fresh Debian machine with python3 and make is enough. Says what it is doing.
set -eu
cd "$(dirname "$0")/.."
PYTHON=${PYTHON:-python3}
BIN=.venv/bin
mkdir -p var
LOG=var/setup.log

as_root() { if [ "$(id -u)" = 0 ]; then "$@"; else sudo "$@"; fi; }
apt_install() {
    as_root apt-get update >>"$LOG" 2>&1
    DEBIAN_FRONTEND=noninteractive as_root apt-get install -y "$@" >>"$LOG" 2>&1
}
loudly() { "$@" >>"$LOG" 2>&1 || { echo "setup: that failed; the end of $LOG says:"; tail -n 20 "$LOG"; exit 1; }; }

case "$1" in
base)
    if [ ! -x $BIN/python ] || [ ! -x $BIN/pip ]; then
        echo "setup: making the virtual environment in .venv"
        rm -rf .venv
        $PYTHON -m venv .venv >>"$LOG" 2>&1 || {
            echo "setup: python3-venv is missing, installing it by apt"
            apt_install python3-venv
            loudly $PYTHON -m venv .venv
        }
    fi
    echo "setup: installing what the application runs on (hash-pinned)"
    loudly $BIN/pip install --disable-pip-version-check --require-hashes -r requirements/base.txt
    loudly $BIN/pip install --disable-pip-version-check --no-deps --no-build-isolation -e .
    touch .venv/base.done
    ;;
dev)
    echo "setup: installing what checks and tests need (hash-pinned)"
    loudly $BIN/pip install --disable-pip-version-check --require-hashes -r requirements/dev.txt
    touch .venv/dev.done
    ;;
chromium)
    if [ ! -x /usr/bin/chromium ]; then
        echo "setup: installing Chromium by apt (a minute or two)"
        apt_install chromium || { echo "setup: that failed; see $LOG"; exit 1; }
    fi
    ;;
esac
