"""What the firm has found before on equipment of one kind."""

from uuid import UUID

from sqlalchemy import select, text
from sqlalchemy.orm import Session

from zesty_copper.core.diagnosis.model.job import PriorFactor
from zesty_copper.core.tools.experience import PastFind, experience
from zesty_copper.store.tables import CallRow

__all__ = ["past_of"]

MOST_FINDS = 400


def past_of(session: Session, call_id: UUID, equipment_id: UUID, circuit_name: str) -> tuple[PriorFactor, ...]:
    """Return what past finds make likelier on a call: those of closed calls whose repair was proven.

    Parameters
    ----------
    circuit_name
        Equipment with a circuit of this name is of the same kind.
    """
    rows = session.execute(
        select(CallRow.equipment_id, CallRow.starts_at, CallRow.found["fault"].astext, CallRow.found["words"].astext)
        .where(
            # As the index has it, so that it serves: every closed call holds a whole circuit.
            text("status = 'done' AND deleted_at IS NULL AND repair->'proof'->>'outcome' = 'proven'"),
            text("circuit->>'name' = :circuit_name").bindparams(circuit_name=circuit_name),
            CallRow.id != call_id,
            CallRow.found["fault"].astext != "",
        )
        .order_by(CallRow.starts_at.desc())
        .limit(MOST_FINDS)
    )
    return experience(
        [
            PastFind(key=key, words=words, same_equipment=call == equipment_id, when=f"{at:%b %-d, %Y}")
            for call, at, key, words in rows
        ]
    )
