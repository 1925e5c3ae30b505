"""The process that workers are forked from: it loads everything once, so that a worker is there in
milliseconds and shares its memory.

Run as `python -m golddice.server.front.zygote FD`, where FD is one end of a socket pair. Each message over it
is a JSON object that says what the new process does, with the process's own socket; the answer is its number.
"""

from __future__ import annotations

import importlib
import json
import os
import signal
import socket
import sys
from typing import NoReturn

LONGEST = 64 * 2**10  # bytes of a message


def ask(zygote: socket.socket, link: socket.socket, work: str, told: list[object]) -> int:
    """Have a process forked that does `work` (`module:function`) with its end of the link; its number. Raises
    OSError where there is no zygote any more."""
    message = json.dumps({"work": work, "told": told}).encode()
    socket.send_fds(zygote, [message], [link.fileno()])
    answer = zygote.recv(100)
    if not answer:
        raise OSError("the process that workers are forked from has ended")
    return int(answer)


def serve(zygote: socket.socket) -> NoReturn:
    """Fork whatever is asked for, until the other end is closed."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # Ctrl+C is for whoever started us
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # who ends is gone
    import golddice.server.front.preloaded  # noqa: F401

    while True:
        message, fds, _, _ = socket.recv_fds(zygote, LONGEST, 1)
        if not message:
            os._exit(0)
        asked = json.loads(message)
        number = os.fork()
        if number == 0:
            _begin(zygote, fds[0], asked["work"], asked["told"])
        os.close(fds[0])
        zygote.send(str(number).encode())


def _begin(zygote: socket.socket, link: int, work: str, told: list[object]) -> NoReturn:
    code = 1
    try:
        zygote.close()
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        module, _, name = work.partition(":")
        getattr(importlib.import_module(module), name)(socket.socket(fileno=link), *told)
        code = 0
    except BaseException:
        sys.excepthook(*sys.exc_info())
    finally:
        os._exit(code)


if __name__ == "__main__":
    serve(socket.socket(fileno=int(sys.argv[1])))
