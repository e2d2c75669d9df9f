"""Tests: changes with a question asked beforehand, and their results."""
