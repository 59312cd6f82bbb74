"""What every command shares: its arguments, and that it speaks plainly of what went wrong."""

from __future__ import annotations

import contextlib
import os
import sys
from collections.abc import Callable
from functools import wraps
from pathlib import Path
from typing import Any

import click

from cadena.model.problem import Problem
from cadena.words.plain_text import printed

OUT = click.Path(path_type=Path, dir_okay=False)
PROJECT = click.argument("project", type=click.Path(path_type=Path))


def say(text: str, err: bool = False) -> None:
    """Print a text, whatever is in it: a terminal only shows it."""
    click.echo(printed(text), err=err)


def speaks_plainly(command: Callable[..., Any]) -> Callable[..., Any]:
    """Turn input that cannot be used into one message and exit code 2, never a traceback."""

    @wraps(command)
    def run(*arguments: Any, **options: Any) -> Any:
        try:
            try:
                return command(*arguments, **options)
            finally:
                sys.stdout.flush()
        except Problem as problem:
            _refuse(str(problem))
        except BrokenPipeError:
            # Whoever read what is printed has had enough of it.
            _silence()
            sys.exit(0)
        except OSError as error:
            _silence()
            _refuse(f"what is said cannot be written ({error.strerror or error})")
        except UnicodeError as error:
            _refuse(f"a name or text in it is no text ({error})")
        except Exception as error:
            from cadena.desktop.process.log import append, in_a_line, log_file, report_of

            append(report_of(error))
            _refuse(f"it went wrong in Cadena ({in_a_line(error)}); the report is in {log_file()}")

    return run


def _refuse(text: str) -> None:
    """Say why, so that it can be printed whatever is in it, and end with 2."""
    with contextlib.suppress(OSError):
        say(f"cadena: {text}", err=True)
    sys.exit(2)


def _silence() -> None:
    """Nothing more is written: else closing what is full would fail once more."""
    with contextlib.suppress(OSError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
