"""Zugzwang. Settings that must apply before any numerical package is imported."""

import os

# Several processes share the machine's cores, so each runs linear algebra in one thread. With a thread for each core,
# threads busy-wait for each other (fitting a curve took twenty-five times as long next to one other process).
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
