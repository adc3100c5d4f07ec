"""A build begun from one line: what was read laid out, sized, drawn in the outline of its vehicle
and wired.
"""
