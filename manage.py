#!/usr/bin/env python3
"""Django's command line for Frostline."""

import os
import sys

from django.core.exceptions import ImproperlyConfigured
from django.core.management import execute_from_command_line

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "frostline.settings")
    try:
        execute_from_command_line(sys.argv)
    except ImproperlyConfigured as error:
        sys.exit(f"frostline: {error}")
