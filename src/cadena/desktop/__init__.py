"""The desktop.

Once the toolkit is loaded it reads the source of every module that is loaded after it, to
see whether that uses the toolkit. So all that does not is loaded first: a tenth of a second.
"""

import cadena.check.mend
import cadena.data.project
import cadena.scene.board
import cadena.scene.lay_out
import cadena.walk.walk  # noqa: F401
