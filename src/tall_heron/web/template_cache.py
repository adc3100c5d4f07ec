"""Templates as they were compiled by the last start, in the user's own folder of the system's
temporary ones: compiling them anew is a fifth of what the first pages cost.
"""

from contextlib import suppress

from jinja2 import FileSystemBytecodeCache
from jinja2.bccache import Bucket

from tall_heron import __version__


class TemplateCache(FileSystemBytecodeCache):
    """Without it every page is shown all the same: a full disk is no reason to show none."""

    def load_bytecode(self, bucket: Bucket) -> None:
        """Take one; none where it was cut off by a power cut."""
        try:
            super().load_bytecode(bucket)
        except Exception:  # what half a pickle raises is anybody's guess
            bucket.reset()

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keep one; nothing where there is no room."""
        with suppress(OSError):
            super().dump_bytecode(bucket)


def template_cache() -> TemplateCache | None:
    """The cache in a folder that is this user's alone; None where there can be none."""
    try:
        return TemplateCache(pattern=f"tall_heron_{__version__}_%s.cache")
    except (OSError, RuntimeError):
        return None
