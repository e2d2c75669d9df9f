"""Trials: changes with their question asked beforehand, and what came of them."""
