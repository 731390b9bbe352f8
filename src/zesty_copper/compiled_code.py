"""Where compiled code is kept, so that only the first run on a machine compiles it.

The compiler keeps each function by its own file alone, but builds the functions it calls from other files into it. So
the folder is named by all of them together: after any change everything is compiled anew.
"""

import os
import shutil
import tempfile
from functools import cache
from hashlib import sha256
from pathlib import Path

__all__ = ["engine_version", "keep_compiled_code"]


def keep_compiled_code() -> None:
    """Name the folder for this source; the compiler reads the name when it is first imported."""
    package = Path(__file__).parent
    digest = sha256()
    for path in sorted(package.glob("core/**/*.py")):
        text = path.read_bytes()
        if b"@njit" in text:
            digest.update(text)
    writable = os.access(package, os.W_OK)
    parent = package / "__pycache__" if writable else Path(tempfile.gettempdir()) / f"zesty-copper-{os.getuid()}"
    folder = parent / f"compiled-{digest.hexdigest()[:16]}"
    if not folder.exists():
        for older in parent.glob("compiled-*"):
            shutil.rmtree(older, ignore_errors=True)
    os.environ.setdefault("NUMBA_CACHE_DIR", str(folder))


@cache
def engine_version() -> str:
    """Return what tells one core from another: any change of its code or data may change an answer."""
    digest = sha256()
    for path in sorted((Path(__file__).parent / "core").rglob("*.*")):
        if path.suffix in (".py", ".toml", ".json"):
            digest.update(path.read_bytes())
    return digest.hexdigest()[:32]
