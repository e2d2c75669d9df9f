"""What bounded processes start with: the loaded program."""

import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "zugzwang.settings")
django.setup()

import ruptures  # noqa: E402, F401
import scipy.optimize  # noqa: E402
import scipy.stats  # noqa: E402, F401

import zugzwang.intake.jobs  # noqa: E402, F401
