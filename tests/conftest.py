"""For every test: no deadline on a made-up example, since a slow machine is no fault of the code."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
