"""A call as its ratings page shows it: each supply's sheet, what the rules find, what should be there, the drops."""

from pydantic import Field

from zesty_copper.core.circuit.model import Circuit
from zesty_copper.core.errors import BadInput, Unreadable
from zesty_copper.core.frozen import Frozen
from zesty_copper.core.ratings.bench.tools import BenchAnswer, bench, bench_tools
from zesty_copper.core.ratings.inputs.from_circuit import sheets_of, sheets_with
from zesty_copper.core.ratings.inputs.sheet import Sheet
from zesty_copper.core.ratings.rules.finding import Finding
from zesty_copper.core.ratings.rules.plate.plausible import PlateCheck, plausible
from zesty_copper.core.ratings.rules.reminders import NotJudged, Reminder, not_judged, reminders
from zesty_copper.core.ratings.sizing.sizes import Wanted, what_it_may_carry, what_matches, what_should_be_there
from zesty_copper.core.ratings.sizing.staircase import Tread, staircase
from zesty_copper.core.ratings.worked import number
from zesty_copper.service.jobs import checked
from zesty_copper.store.records import Call, CallSummary, Kept

__all__ = ["CallRatings", "KeptShown", "RatedSupply", "check_source", "ratings_of", "sheet_of"]


class RatedSupply(Frozen):
    """One supply of the equipment."""

    source: str
    name: str
    sheet: Sheet
    entered: bool = Field(description="something was entered beyond what the circuit says")
    version: str = Field(description="of what was entered; empty where nothing was")
    findings: tuple[Finding, ...]
    wanted: tuple[Wanted, ...]
    carries: tuple[Wanted, ...]
    matches: tuple[Wanted, ...]
    plate_checks: tuple[PlateCheck, ...]
    reminders: tuple[Reminder, ...]


class KeptShown(Frozen):
    """A kept calculation, done again."""

    kept: Kept
    label: str
    inputs: str
    answer: BenchAnswer | None = Field(description="none where it can no longer be done")


class CallRatings(Frozen):
    """Everything that the ratings page needs."""

    call: CallSummary
    circuit: Circuit
    supplies: tuple[RatedSupply, ...]
    treads: tuple[Tread, ...]
    kept: tuple[KeptShown, ...]
    not_judged: tuple[NotJudged, ...]


def _sheets(call: Call) -> dict[str, Sheet]:
    return sheets_with(call.circuit, call.ratings.sheets, call.readings)


def sheet_of(call: Call, source: str) -> Sheet:
    """Return the sheet of one branch circuit of a call, with what was measured on it."""
    return _sheets(call)[source]


def check_source(call: Call, source: str) -> None:
    """Check that a call's circuit has such a supply.

    Raises
    ------
    BadInput
        If it has not.
    """
    if source not in sheets_of(call.circuit):
        raise BadInput("This circuit has no such supply: choose one of its sources or breakers.", "source")


def ratings_of(call: Call) -> CallRatings:
    """Lay a call out for its ratings page.

    Raises
    ------
    Unreadable
        If what was entered for it can no longer be read.
    """
    if call.unread_ratings:
        raise Unreadable(call.unread_ratings)
    return CallRatings(
        call=call.summary,
        circuit=call.circuit,
        supplies=tuple(
            RatedSupply(
                source=source,
                name=call.circuit.part(source).name,
                sheet=sheet,
                entered=source in call.ratings.sheets,
                version=call.versions.sheets.get(source, ""),
                findings=checked(sheet),
                wanted=what_should_be_there(sheet),
                carries=what_it_may_carry(sheet),
                matches=what_matches(sheet),
                plate_checks=plausible(sheet),
                reminders=reminders(sheet.edition),
            )
            for source, sheet in _sheets(call).items()
        ),
        treads=staircase(call.circuit, call.readings),
        kept=tuple(_shown(kept_sum) for kept_sum in call.ratings.kept),
        not_judged=not_judged(),
    )


def _shown(kept: Kept) -> KeptShown:
    tool = next((bench_tool for bench_tool in bench_tools() if bench_tool.key == kept.tool), None)
    if tool is None:
        return KeptShown(kept=kept, label=kept.tool, inputs="", answer=None)
    known_values = [
        f"{field.label} {value if isinstance(value, str) else number(value)}{f' {field.unit}' if field.unit else ''}"
        for field in tool.fields
        if (value := kept.values.get(field.key)) is not None and value != ""
    ]
    try:
        answer = bench(kept.tool, kept.values)
    except BadInput:
        answer = None
    return KeptShown(kept=kept, label=tool.label, inputs=", ".join(known_values), answer=answer)
