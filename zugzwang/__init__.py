"""Zugzwang. Settings that must apply before any numerical package is imported."""

import os

# Several processes share the machine's cores, so each does its sums of matrices by itself: with a thread a core, each waits for
# the others' in a loop that takes the core away (a curve's fit took twenty-five times as long next to one other process).
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
