"""Everything in one file, and back from it: by PostgreSQL's own programs, whatever becomes of this one.

Called by `./zesty backup FILE` and `./zesty restore FILE`.
"""

import os
import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import URL, make_url

from zesty_copper.launch.cluster import Cluster, ClusterError, ClusterTaken, cluster_folder, programs
from zesty_copper.launch.places import HOME

__all__ = ["back_up", "database", "restore"]

USAGE = "zesty: say where to: ./zesty backup FILE, or ./zesty restore FILE"


def back_up(url: str, file: Path) -> None:
    """Write all that a database holds; a file that is there already is replaced only by a whole one.

    Raises
    ------
    ClusterError
        If it cannot be written.
    """
    aside = file.with_name(f"{file.name}.part")
    aside.touch(mode=0o600)
    # What is kept of circuits without a reading is found again by itself.
    _run("pg_dump", url, "--format=custom", f"--file={aside}", "--exclude-table-data=unread_answer")
    aside.replace(file)


def restore(url: str, file: Path) -> None:
    """Put back what a file holds in place of everything, or change nothing.

    Raises
    ------
    ClusterError
        If the file is no backup, or cannot be put back.
    """
    listed = subprocess.run([programs() / "pg_restore", "--list", file], capture_output=True, text=True, check=False)
    if listed.returncode or " TABLE public entry " not in listed.stdout:
        raise ClusterError(f"{file} is no backup of Zesty Copper.")
    whole = ("--clean", "--if-exists", "--no-owner", "--no-privileges", "--single-transaction", "--exit-on-error")
    _run("pg_restore", url, *whole, str(file))


def _run(program: str, url: str, *arguments: str) -> None:
    """Run one of PostgreSQL's programs on a database; the password stays out of the list of processes."""
    address = make_url(url)
    environment = os.environ | {"PGPASSWORD": address.password or ""}
    bare = URL.create("postgresql", address.username, None, address.host, address.port, address.database, address.query)
    where = bare.render_as_string()
    done = subprocess.run(
        [programs() / program, f"--dbname={where}", *arguments],
        env=environment,
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        raise ClusterError(f"{program}: {done.stderr.strip().splitlines()[-1] if done.stderr.strip() else 'it failed'}")


@contextmanager
def database(*, alone: bool) -> Iterator[str]:
    """Address of the database: the one of ZESTY_DATABASE_URL, or the private one, started if it does not run."""
    if url := os.environ.get("ZESTY_DATABASE_URL", ""):
        yield url
        return
    cluster = Cluster(cluster_folder(HOME, "postgres"))
    try:
        cluster.__enter__()
    except ClusterTaken:
        if alone:
            raise
        yield cluster.address()
        return
    try:
        yield cluster.url
    finally:
        cluster.__exit__()


def main(told: list[str]) -> int:
    """Back up or restore; the exit code is 0, 1 with one line on standard error, or 2 where that was not said."""
    if len(told) != 2 or told[0] not in ("backup", "restore"):
        print(USAGE, file=sys.stderr)
        return 2
    file = Path(told[1])
    try:
        if told[0] == "backup":
            with database(alone=False) as url:
                back_up(url, file)
            print(f"zesty: everything is in {file} ({file.stat().st_size / 1e3:,.0f} kB)")
        else:
            with database(alone=True) as url:
                restore(url, file)
            print(f"zesty: everything is as it was in {file}")
    except (ClusterError, OSError) as error:
        print(f"zesty: {error}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
