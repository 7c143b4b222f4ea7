"""The geometry kernel: STEP in and out, and its curves and surfaces as ours. Never imported by the window.

The kernel is large, slow to import and may crash on bad geometry; nothing but the engine's processes and the
command line imports this room, and only when a STEP file or a body is read or written. It works in silence.
"""

from OCP.Message import Message

Message.DefaultMessenger_s().ChangePrinters().Clear()
