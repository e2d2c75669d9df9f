#!/usr/bin/env python
"""The command line: `python manage.py help` lists the commands; ours are sites, load, findings and demo."""

import os
import sys

if __name__ == "__main__":
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)
