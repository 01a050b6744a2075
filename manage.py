#!/usr/bin/env python3
import os
import sys

from django.core.management import execute_from_command_line
from django.db import OperationalError

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "mindful_tally.settings.demo")
    try:
        execute_from_command_line(sys.argv)
    except OperationalError as fault:
        if "there is no database at" not in str(fault):
            raise
        sys.exit(str(fault))
