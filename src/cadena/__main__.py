"""``python -m cadena``."""

from cadena.cli.main import main

main()
