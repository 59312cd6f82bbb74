"""The desktop.

Once the toolkit is loaded it reads the source of every module that is loaded after it, to
see whether that uses the toolkit. So all that does not is loaded first: a tenth of a second.
"""
# ruff: noqa: E402

import gc

# What a window is made of stays: it need not be looked through for garbage all the time.
gc.set_threshold(50_000, 5, 5)

import babel.dates
import babel.numbers

import cadena.check.mend
import cadena.deliver.icons
import cadena.runs.walks.recording
import cadena.scene.board.board
import cadena.scene.lay_out
import cadena.scene.transition
import cadena.serve.call_services
import cadena.sources.open_project
import cadena.words.notes
import cadena.words.rules
