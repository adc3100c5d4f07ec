"""Tall Heron: plans, sizes and proves performance fuel systems."""

__version__ = "0.1.0"
