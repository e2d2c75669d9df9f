"""What bounded processes begin with: the program, loaded."""

import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
django.setup()

import zugzwang.intake.jobs  # noqa: E402, F401
