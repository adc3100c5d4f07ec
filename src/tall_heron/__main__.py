"""`python -m tall_heron` is `tall-heron`."""

from tall_heron.cli import main

main(prog_name="tall-heron")
