"""For every test: no deadline on a made-up example, since a slow machine is no fault of the code, and fifty examples where a test asks for no number; thousands more are made by make fuzz."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None, max_examples=50)
settings.load_profile("untimed")
