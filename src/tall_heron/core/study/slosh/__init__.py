"""Fuel moving in its tank along a drive."""
