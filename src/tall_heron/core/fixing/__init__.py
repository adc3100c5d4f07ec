"""What clears a finding: acts on the build, each tried before it is offered."""
