"""As whom the server's processes run: never as root, and never longer than whoever started them."""

from __future__ import annotations

import atexit
import ctypes
import os
import pwd
import signal
import subprocess
import sys
import traceback
from collections.abc import Callable
from pathlib import Path

import plentar
from plentar.core.errors import PlentarError
from plentar.words import phrase

USER = "PLENTAR_USER"
#: Of Linux: prctl(2).
_END_WITH_PARENT, _NO_NEW_PRIVS = 1, 38


class CannotDrop(PlentarError):
    """Started as root, with nobody to become who could run the server."""


def own_user() -> pwd.struct_passwd | None:
    """Whom to become; None where this is somebody already. Raises CannotDrop."""
    if os.geteuid() != 0:
        return None
    name = os.environ.get(USER, "plentar")
    try:
        user = pwd.getpwnam(name)
    except KeyError:
        raise CannotDrop(phrase("operate.no-user", name=name)) from None
    if user.pw_uid == 0:
        raise CannotDrop(phrase("operate.user-is-root", name=name))
    for flag, needed in (("-x", Path(sys.executable)), ("-r", Path(plentar.__file__))):
        reach = [*_become(user), "test", flag, str(needed)]
        if subprocess.run(reach, check=False, stderr=subprocess.DEVNULL).returncode != 0:
            raise CannotDrop(phrase("operate.user-cant-reach", name=name, path=str(needed)))
    return user


def _become(user: pwd.struct_passwd) -> list[str]:
    return ["setpriv", f"--reuid={user.pw_uid}", f"--regid={user.pw_gid}", "--init-groups", "--"]


def fork_demoted(user: pwd.struct_passwd | None, work: Callable[[], None]) -> int:
    """A process that does this as that user, in a group of its own, gains no rights, and ends with the one
    that forks it; its id. What is loaded here is loaded there."""
    parent = os.getpid()
    if pid := os.fork():
        return pid
    try:
        # A group of its own: the terminal's Ctrl-C reaches the parent alone, which ends the others.
        os.setsid()
        for number in (signal.SIGTERM, signal.SIGINT):
            signal.signal(number, signal.SIG_DFL)
        os.chdir("/")
        if user is not None:
            os.initgroups(user.pw_name, user.pw_gid)
            os.setresgid(user.pw_gid, user.pw_gid, user.pw_gid)
            os.setresuid(user.pw_uid, user.pw_uid, user.pw_uid)
        _prctl(_NO_NEW_PRIVS, 1)
        _prctl(_END_WITH_PARENT, signal.SIGTERM)
        if os.getppid() == parent:
            work()
    except SystemExit as done:
        # What is open further up is the parent's to close; what this process has registered is its own.
        atexit._run_exitfuncs()
        os._exit(done.code if isinstance(done.code, int) else 1)
    except BaseException:
        traceback.print_exc()
        os._exit(1)
    os._exit(0)


def _prctl(option: int, value: int) -> None:
    if ctypes.CDLL(None, use_errno=True).prctl(option, value, 0, 0, 0) != 0:
        raise OSError(ctypes.get_errno(), f"prctl {option}")
