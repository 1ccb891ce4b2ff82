"""The statement for the owner: HTML from a template, and the same as PDF."""

import base64
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from typing import TYPE_CHECKING

from plucky_ledger.core.values.trouble import TroubleCode
from plucky_ledger.exchange.saving import NotSaved

if TYPE_CHECKING:
    from jinja2 import Template

PICTURES = ((b"\x89PNG", "png"), (b"\xff\xd8\xff", "jpeg"))
"""How a picture begins, and what it is: kinds that cannot name anything outside themselves."""
PDF_VARIANTS = ("pdf/a-2a", "pdf/a-2u")
"""To be kept for years and to be read aloud; the second where the library cannot do the first."""
BARS, STAIRCASE = "bars.svg", "staircase.svg"
PAGE_WIDTH = 640
"""Of pictures, in pixels of a page."""


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
class Bar:
    """One bar of the owner's picture."""

    name: str
    value: float
    text: str
    """The value in words."""


@dataclass(frozen=True, kw_only=True)
class ForTheOwner:
    """The first page, in everyday words."""

    headline: str
    how_sure: str
    """Empty where there is nothing to be sure of."""
    bars: tuple[Bar, ...]
    """Before and after; empty without both."""
    changed: tuple[str, ...]
    left_on: tuple[str, ...]
    advised: tuple[tuple[str, str], ...]
    """Titles, and what to do and what it would bring."""
    open_points: tuple[str, ...]
    """What is not settled yet."""


@dataclass(frozen=True)
class StartPicture:
    """How the PC started once, as a picture."""

    title: str
    svg: str


@dataclass(frozen=True, kw_only=True)
class EntryLine:
    """One startup entry, in words."""

    name: str
    kind: str
    cost: str
    decision: str
    reason: str


@dataclass(frozen=True, kw_only=True)
class BootLine:
    """One boot, in words."""

    line: str
    """Number of its line in the book; empty for the opening round."""
    at: str
    how: str
    figure: str
    remark: str


@dataclass(frozen=True, kw_only=True)
class ForTheNext:
    """What whoever works on the PC next needs besides the book."""

    entries: tuple[EntryLine, ...]
    boots: tuple[BootLine, ...]
    put_back: tuple[str, ...]
    facts: tuple[tuple[str, str], ...]
    """Headings, and what is known under each."""
    undo: tuple[str, ...]
    """How everything is put back, with the program and by hand."""


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


@dataclass(frozen=True)
class Parts:
    """What goes in besides the owner's page."""

    details: bool = True
    """The pages for whoever works on the PC next; without them none of these."""
    entries: bool = True
    boots: bool = True
    starts: bool = True
    """Pictures of a start at first and of one now."""
    signature: bool = True
    """A place to sign, on the owner's page."""


WHOLE = Parts()


@dataclass(frozen=True, kw_only=True)
class Statement:
    """Everything the statement says."""

    title: str
    subtitle: str
    complaint: str
    owner: ForTheOwner
    made_on: str
    """"Statement of", and the day."""
    answer: str
    unit: str
    figures: tuple[FigureLine, ...]
    done: tuple[DoneLine, ...]
    """The opening round first."""
    advice: tuple[tuple[str, str], ...]
    """What the owner is advised to do: titles, and what there is to say of each."""
    next: ForTheNext
    remarks: tuple[str, ...]
    headings: Mapping[str, str]
    """Everything the template says itself, by the names it uses; "language" is the code of it."""
    letterhead: Letterhead = NO_LETTERHEAD
    parts: Parts = WHOLE
    starts: tuple[StartPicture, ...] = ()


@dataclass(frozen=True)
class Summary:
    """What heads statements on several PCs."""

    title: str
    """Whose they are."""


@cache
def template(name: str) -> "Template":
    """A template by its name. Raises NotSaved where the package for it is missing."""
    try:
        from jinja2 import Environment, PackageLoader, StrictUndefined
    except ImportError as error:
        raise NotSaved(TroubleCode.PACKAGE_MISSING, package="Jinja2", extra="pdf") from error

    environment = Environment(
        loader=PackageLoader("plucky_ledger.exchange"), autoescape=True, undefined=StrictUndefined
    )
    return environment.get_template(name)


def pictures_svg(statement: Statement) -> dict[str, str]:
    """Its pictures as SVG by name: the owner's two bars, the staircase of balances, and the
    starts.
    """
    steps = [line for line in statement.done if line.balance is not None]
    bars = statement.owner.bars
    return {
        BARS: template("bars.svg").render(bars=bars, most=_most(bar.value for bar in bars)),
        STAIRCASE: template("staircase.svg").render(
            steps=steps,
            most=_most(line.balance or 0.0 for line in steps),
            unit=statement.unit,
            opening=statement.headings["opening"],
        ),
        **{start_name(at): start.svg for at, start in enumerate(statement.starts)},
    }


def start_name(at: int) -> str:
    """The name of a start's picture."""
    return f"start-{at}.svg"


def _most(values: Iterable[float]) -> float:
    return max(values, default=1.0) or 1.0


def as_html(statement: Statement, *, names_pictures: bool = False) -> str:
    """The statement as one HTML page without anything outside it.

    With ``names_pictures`` whoever shows it has the pictures by their names; otherwise they are in
    the page itself.
    """
    pictures = pictures_svg(statement)
    return _html(
        (statement,), [{name: name for name in pictures} if names_pictures else _embedded(pictures)]
    )


def several_as_html(statements: Sequence[Statement], title: str) -> str:
    """Statements on several PCs as one page, headed by what came of each. There is one at least."""
    return _html(statements, [_embedded(pictures_svg(one)) for one in statements], Summary(title))


def _html(
    statements: Sequence[Statement],
    addresses: Sequence[Mapping[str, str]],
    summary: Summary | None = None,
) -> str:
    return template("statement.html").render(
        statements=statements, addresses=addresses, summary=summary, width=PAGE_WIDTH
    )


def _embedded(pictures: Mapping[str, str]) -> dict[str, str]:
    """Addresses of pictures that hold them whole."""
    return {
        name: f"data:image/svg+xml;base64,{base64.b64encode(svg.encode()).decode()}"
        for name, svg in pictures.items()
    }


def as_pdf(html: str) -> bytes:
    """A page as a PDF. Raises NotSaved where what PDF needs is missing."""
    try:
        import weasyprint
    except ImportError as error:
        raise NotSaved(TroubleCode.PACKAGE_MISSING, package="weasyprint", extra="pdf") from error
    except OSError as error:
        raise NotSaved(TroubleCode.PDF_LIBRARY_MISSING) from error
    variant = next(one for one in PDF_VARIANTS if one in weasyprint.pdf.VARIANTS)
    data: bytes = weasyprint.HTML(string=html).write_pdf(pdf_variant=variant, pdf_tags=True)
    return data
