"""Drawings as vectors, in millimetres on paper."""
