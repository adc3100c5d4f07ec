"""Predicted against measured: tests of a build, what they should read, how sure that is, and what a
miss most likely means.
"""
