"""The statement for the owner: HTML from a template, and the same as PDF."""

import base64
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.exchange.saving import NotSaved

if TYPE_CHECKING:
    from jinja2 import Template

PICTURES = ((b"\x89PNG", "png"), (b"\xff\xd8\xff", "jpeg"))
"""How a picture begins, and what it is: kinds that cannot name anything outside themselves."""


@dataclass(frozen=True, kw_only=True)
class FigureLine:
    """One measure before and after, in words."""

    title: str
    explanation: str
    before: str
    after: str
    shift: str
    verdict: str


@dataclass(frozen=True, kw_only=True)
class DoneLine:
    """One posting as the owner reads it."""

    day: str
    particulars: str
    details: tuple[str, ...]
    result: str
    struck_out: bool
    balance: float | None
    """In the book's measure; None when it has no figure."""
    balance_text: str


@dataclass(frozen=True)
class Letterhead:
    """Whose statement it is."""

    name: str = ""
    address: tuple[str, ...] = ()
    """Lines."""
    mark: bytes = b""
    """A picture, PNG or JPEG; empty for none."""

    @property
    def mark_address(self) -> str:
        """The picture as an address that holds it whole; empty for none, and for no picture."""
        kind = next((kind for start, kind in PICTURES if self.mark.startswith(start)), "")
        packed = base64.b64encode(self.mark).decode()
        return f"data:image/{kind};base64,{packed}" if kind else ""


NO_LETTERHEAD = Letterhead()


@dataclass(frozen=True, kw_only=True)
class Statement:
    """Everything the statement says."""

    title: str
    subtitle: str
    complaint: str
    made_on: str
    """"Statement of", and the day."""
    answer: str
    unit: str
    figures: tuple[FigureLine, ...]
    done: tuple[DoneLine, ...]
    """The opening round first."""
    advice: tuple[tuple[str, str], ...]
    """What the owner is advised to do: titles, and what there is to say of each."""
    remarks: tuple[str, ...]
    headings: Mapping[str, str]
    """Everything the template says itself, by the names it uses; "language" is the code of it."""
    letterhead: Letterhead = NO_LETTERHEAD


@cache
def _template(name: str) -> "Template":
    try:
        from jinja2 import Environment, PackageLoader, StrictUndefined
    except ImportError as error:
        raise NotSaved(TroubleCode.PACKAGE_MISSING, package="Jinja2", extra="pdf") from error

    environment = Environment(
        loader=PackageLoader("plucky_ledger.exchange"), autoescape=True, undefined=StrictUndefined
    )
    return environment.get_template(name)


def picture_svg(statement: Statement) -> str:
    """The staircase of balances as an SVG picture."""
    steps = [line for line in statement.done if line.balance is not None]
    most = max((line.balance or 0.0 for line in steps), default=1.0) or 1.0
    return _template("staircase.svg").render(
        steps=steps, most=most, unit=statement.unit, opening=statement.headings["opening"]
    )


def as_html(statement: Statement, picture: str = "") -> str:
    """The statement as one HTML page without anything outside it.

    ``picture`` names where the staircase is found; by default it is put into the page itself.
    """
    if not picture:
        packed = base64.b64encode(picture_svg(statement).encode()).decode()
        picture = f"data:image/svg+xml;base64,{packed}"
    return _template("statement.html").render(statement=statement, picture=picture)


def as_pdf(statement: Statement) -> bytes:
    """The same as a PDF. Raises NotSaved where what PDF needs is missing."""
    try:
        import weasyprint
    except ImportError as error:
        raise NotSaved(TroubleCode.PACKAGE_MISSING, package="weasyprint", extra="pdf") from error
    except OSError as error:
        raise NotSaved(TroubleCode.PDF_LIBRARY_MISSING) from error
    data: bytes = weasyprint.HTML(string=as_html(statement)).write_pdf()
    return data
