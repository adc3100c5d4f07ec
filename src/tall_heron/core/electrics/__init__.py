"""Wires, fuses, relays, what may stop a pump, and what feeds it."""
