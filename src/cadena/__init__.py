"""Cadena: wire, run and check the way from a list to its detail and back."""

__version__ = "0.11.2"
