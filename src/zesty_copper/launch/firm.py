"""A whole firm into an open archive, and out of one. Called by `./zesty export FILE` and `./zesty import FILE`."""

import sys
from collections import Counter
from collections.abc import Mapping
from pathlib import Path
from typing import Any
from uuid import UUID

from sqlalchemy.orm import Session

from zesty_copper.core.errors import ZestyError
from zesty_copper.files.firm_file import Firm, FirmCall, read_firm, write_firm
from zesty_copper.files.kept import KeptPhoto, KeptTrace
from zesty_copper.files.travelling import keep_photos, keep_traces, kept_photos, kept_traces
from zesty_copper.launch.backup import database
from zesty_copper.launch.cluster import ClusterError
from zesty_copper.store.database import connect, migrate
from zesty_copper.store.tables import CallRow, EntryRow, EquipmentRow, PersonRow, ShareRow, SiteRow
from zesty_copper.store.whole import all_calls, all_people, all_sites, put

__all__ = ["export_firm", "import_firm"]

USAGE = "zesty: say where to: ./zesty export FILE, or ./zesty import FILE"


def export_firm(session: Session, file: Path) -> int:
    """Write everything but passwords and the log; returns how many calls."""
    calls = (_with_files(session, call) for call in all_calls(session))
    return write_firm(file, {"people": all_people(session), "sites": all_sites(session)}, calls)


def _with_files(session: Session, call: dict[str, Any]) -> dict[str, Any]:
    """Add load tests and photos to a call, where it has any."""
    traces, photos = kept_traces(session, call["id"]), kept_photos(session, call["id"])
    files_kept: dict[str, Mapping[UUID, KeptTrace | KeptPhoto]] = {"load_tests": traces, "photos": photos}
    return call | {
        name: [record.model_dump(mode="json") | {"id": key} for key, record in files.items()]
        for name, files in files_kept.items()
        if files
    }


def import_firm(session: Session, file: Path) -> Counter[str]:
    """Add what an archive holds and is not there yet; returns how many of what were added.

    Raises
    ------
    BadInput
        If the archive is none of ours.
    Conflict
        If someone else has the name of somebody in it.
    """
    firm, calls = read_firm(file)
    added = _put_people_and_sites(session, firm)
    for call in calls:
        added["calls"] += _put_call(session, call)
        session.flush()
        session.expunge_all()
    return +added


def _put_people_and_sites(session: Session, firm: Firm) -> Counter[str]:
    added = Counter[str]()
    for person in firm.people:
        added["people"] += put(session, PersonRow, person.model_dump() | {"is_demo": False, "password": None})
    for site in firm.sites:
        values = site.model_dump(include={"id", "name", "address"}) | {"feeds": _json(site.feeds)}
        added["sites"] += put(session, SiteRow, values)
        for item in site.equipment:
            values = {"id": item.id, "site_id": site.id, "name": item.name, "circuit": _json(item.circuit)}
            added["pieces of equipment"] += put(session, EquipmentRow, values)
    return added


def _put_call(session: Session, call: FirmCall) -> bool:
    plain = ("id", "technician_id", "equipment_id", "complaint", "starts_at", "status", "deleted_at", "visit")
    fields = {name: getattr(call, name) for name in plain}
    fields |= {name: _json(getattr(call, name)) for name in ("scope", "circuit", "ratings", "repair", "found")}
    if not put(session, CallRow, fields):
        return False
    for person in call.shared_with:
        put(session, ShareRow, {"call_id": call.id, "person_id": person})
    keep_traces(session, call.id, call.circuit, {test.id: test for test in call.load_tests})
    keep_photos(session, call.id, {photo.id: photo for photo in call.photos})
    for entry in call.entries:
        values = entry.model_dump(exclude={"reading"}) | {"call_id": call.id, "reading": _json(entry.reading)}
        put(session, EntryRow, values)
    return True


def _json(value: Any) -> Any:
    """As it stood in the archive: what follows from a default is not written down."""
    return None if value is None else value.model_dump(mode="json", exclude_unset=True)


def main(told: list[str]) -> int:
    """Export or import; the exit code is 0, 1 with one line on standard error, or 2 where that was not said."""
    if len(told) != 2 or told[0] not in ("export", "import"):
        print(USAGE, file=sys.stderr)
        return 2
    file = Path(told[1])
    try:
        with database(alone=False) as url:
            engine = connect(url)
            try:
                migrate(engine)
                with Session(engine) as session, session.begin():
                    if told[0] == "export":
                        print(f"zesty: {export_firm(session, file):,} calls and all that belongs to them are in {file}")
                    else:
                        added = import_firm(session, file)
                        summary = (
                            ", ".join(f"{count:,} {added_kind}" for added_kind, count in added.items() if count)
                            or "nothing"
                        )
                        print(f"zesty: added {summary}; what was there already stayed as it was")
            finally:
                engine.dispose()
    except (ClusterError, ZestyError, OSError) as error:
        print(f"zesty: {error}", file=sys.stderr)
        return 1
    return 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
