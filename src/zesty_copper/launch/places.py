"""Where this program lies, and where it keeps its data."""

import os
from pathlib import Path

__all__ = ["CHECKOUT", "HOME"]

CHECKOUT = Path(__file__).parents[3]
HOME = Path(os.environ.get("ZESTY_HOME") or CHECKOUT)
"""Database, backups and logs lie in its folder `var`; the checkout, unless ZESTY_HOME names another."""
