"""A sheet, or all of them, as one PDF."""

from enum import StrEnum

from reportlab.platypus import PageBreak

from zesty_copper.files.pdf.customer import customer
from zesty_copper.files.pdf.electrician import electrician, is_for_electrician
from zesty_copper.files.pdf.paper import pages
from zesty_copper.files.pdf.tag import tags
from zesty_copper.files.pdf.technical import technical
from zesty_copper.files.pdf.told import HandOver

__all__ = ["SheetKind", "report_pdf"]

FOOT = "The nameplate, the maker’s instructions, the local code and whoever is licensed decide."


class SheetKind(StrEnum):
    """For whom a sheet is."""

    CUSTOMER = "customer"
    TECHNICAL = "technical"
    ELECTRICIAN = "electrician"
    TAG = "tag"
    ALL = "all"


def report_pdf(told: HandOver, kind: SheetKind) -> bytes:
    """Set one sheet, or all but the tag, as PDF."""
    match kind:
        case SheetKind.CUSTOMER:
            story = list(customer(told))
        case SheetKind.TECHNICAL:
            story = list(technical(told))
        case SheetKind.ELECTRICIAN:
            story = list(electrician(told))
        case SheetKind.TAG:
            story = list(tags(told))
        case SheetKind.ALL:
            story = [*customer(told), PageBreak(), *technical(told)]
            if is_for_electrician(told):
                story += [PageBreak(), *electrician(told)]
    title = f"{told.call.site_name} · {told.call.equipment_name} · {told.moment(told.call.starts_at)}"
    return pages(title, FOOT, story)
