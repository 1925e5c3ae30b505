"""All tests. Hypothesis draws the same examples each time, so that a red test stays red."""

from hypothesis import settings

settings.register_profile("same", deadline=None, derandomize=True)
settings.load_profile("same")
