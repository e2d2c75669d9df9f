"""Trials: changes with their question asked beforehand, and the result of them."""
