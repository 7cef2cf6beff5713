"""A part as it is drawn: where it stands, what is written on it, how it can be touched."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Mapping
from dataclasses import dataclass, field
from html import escape
from json import dumps

from plentar.core.circuit.predict import Prediction
from plentar.core.expected import Word
from plentar.drawing.glyphs import in_words, shape, tone
from plentar.words import chosen, phrase


@dataclass(frozen=True, slots=True)
class Form:
    name: str
    width: int
    rail: int
    head: int
    rung: int


WIDE = Form("wide", 880, 40, 96, 122)
NARROW = Form("narrow", 366, 12, 96, 120)
FORMS = (WIDE, NARROW)


@dataclass(frozen=True, slots=True)
class Badge:
    """The newest reading at a point, as the drawing shows it."""

    text: str
    word: Word
    good: bool | None
    provisional: bool = False


@dataclass(frozen=True, slots=True)
class Handle:
    """A switch on the drawing that people move: where it is sent, and what is said with it."""

    url: str
    values: Mapping[str, str]
    label: str


@dataclass(frozen=True, slots=True)
class Scene:
    """What the drawing shows besides the unit.

    ``model`` gives contact positions and what is live; without it, symbols stand at rest.
    ``handles`` are the breakers (by circuit), the calls, and ``lifted``.
    """

    link: Callable[[str], str]
    badges: Mapping[str, Badge] = field(default_factory=dict)
    power: Mapping[str, str] = field(default_factory=dict)
    selected: str = ""
    htmx_target: str = ""
    model: Prediction | None = None
    handles: Mapping[str, Handle] = field(default_factory=dict)
    #: Parts and calls with a jumper across them, which is drawn.
    bridged: frozenset[str] = frozenset()
    #: Touched, a part that is read elsewhere leads to itself, not to where it is read.
    by_label: bool = False

    def is_closed(self, contact: str) -> bool:
        if self.model is None:
            return False
        solution = self.model.moment.solution
        return bool(solution.siemens[solution.topology.branch_index[contact]] > CLOSED_S)

    @property
    def stand(self) -> Hashable:
        """What the picture of the parts depends on beside the unit: power, and every contact."""
        closed = b"" if self.model is None else self.model.moment.solution.siemens > CLOSED_S
        return tuple(self.power.items()), bytes(closed)

    def wire_class(self, node: str, branch: str) -> str:
        """How a wire is painted: dead, live, or carrying current."""
        if self.model is None:
            return "wire"
        solution = self.model.moment.solution
        amps = abs(solution.amp(branch)) if branch in solution.topology.branch_index else 0.0
        live = node in self.model.live_nodes
        return f"wire{' live' if live else ''}{' flow' if amps > FLOW_A else ''}"


#: From here on a contact counts as closed, S.
CLOSED_S = 1e-3
#: From here on a wire counts as carrying current.
FLOW_A = 0.02
#: Parts that are read at a terminal drawn elsewhere.
ELSEWHERE, FUSE = "coil-elsewhere", "control-fuse"
#: A lead that nothing is read at: it leads to its motor.
OTHER_SPEED = "other-speed"


@dataclass(frozen=True, slots=True)
class Spot:
    x: float
    y: float
    width: float
    height: float


@dataclass(frozen=True, slots=True)
class Placed:
    """A touchable part in its place. ``owner`` is the rung that it stands in: a part that two
    rungs share is drawn in both."""

    point: str
    label: str
    note: str
    picture: str
    spot: Spot
    kind: str = ""
    owner: str = ""


def touch(form: Form, scene: Scene, part: Placed, extra: str = "") -> str:
    """One touchable part: symbol on the wire, its id above, plate and reading below."""
    badge = None if part.kind == OTHER_SPEED else scene.badges.get(part.point)
    spot = part.spot
    centre = spot.x + spot.width / 2
    marked = " chosen" if part.point == scene.selected else ""
    # What is read at a terminal but drawn elsewhere keeps a name of its own.
    name = part.label if part.kind in (ELSEWHERE, FUSE, OTHER_SPEED) else part.point
    href = escape(scene.link(name if scene.by_label and part.kind != OTHER_SPEED else part.point))
    # What is written on the part comes first and in the same order: people say it to select it.
    written = " ".join(filter(None, [chosen(part.label), chosen(part.note), badge.text if badge else ""]))
    spoken = ", ".join(filter(None, [written, chosen(part.kind), _spoken(badge)]))
    if scene.htmx_target:
        extra += f' data-hx-get="{href}" data-hx-target="{scene.htmx_target}"'
    id_y, note_y, read_y = (16, 76, 102) if part.picture else (22, 42, 70)
    return (
        f'<a class="part{marked}" id="{form.name}-{part.owner}-{name}" href="{href}"{extra}'
        f' aria-label="{escape(spoken)}">'
        f'<rect class="touch" x="{spot.x + 2:.1f}" y="{spot.y:.1f}" width="{spot.width - 4:.1f}"'
        f' height="{spot.height - 4:.1f}" rx="10"/>'
        f'<g transform="translate({centre:.1f} {spot.y + 44:.1f})">{part.picture}</g>'
        f'<text class="id" x="{centre:.1f}" y="{spot.y + id_y:.1f}">{escape(chosen(part.label))}</text> '
        f'<text class="plate" x="{centre:.1f}" y="{spot.y + note_y:.1f}">{escape(chosen(part.note))}</text> '
        f"{_badge(badge, centre, spot.y + read_y)}</a>"
    )


def handle(form: Form, name: str, moved: Handle, spot: Spot) -> str:
    """A switch that people move, as a button on the drawing."""
    values = escape(dumps(dict(moved.values)))
    return (
        f'<a class="handle" id="{form.name}-handle-{name}" href="#drawing" role="button"'
        f' data-hx-post="{escape(moved.url)}" data-hx-vals="{values}" data-hx-target="#bench">'
        f'<rect class="touch" x="{spot.x:.1f}" y="{spot.y:.1f}" width="{spot.width:.1f}"'
        f' height="{spot.height:.1f}" rx="6"/><text x="{spot.x + spot.width / 2:.1f}"'
        f' y="{spot.y + spot.height / 2 + 5:.1f}">{escape(moved.label)}</text></a>'
    )


def _badge(badge: Badge | None, x: float, y: float) -> str:
    if badge is None:
        return ""
    dashed = " provisional" if badge.provisional else ""
    half = 6.1 * len(badge.text)
    return (
        f'<g class="badge tone-{tone(badge.word, badge.good)}{dashed}">'
        f'<g class="glyph" transform="translate({x - half - 15:.1f} {y - 16:.1f})">'
        f"{shape(badge.word)}</g>"
        f'<text class="read" x="{x + 9:.1f}" y="{y:.1f}">{escape(badge.text)}</text></g>'
    )


def _spoken(badge: Badge | None) -> str:
    return phrase("drawing.parts.not-read") if badge is None else in_words(badge.word, badge.provisional)
