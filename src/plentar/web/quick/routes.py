"""Quick numbers, for anybody and without a record."""

from __future__ import annotations

from flask import Blueprint, render_template, request
from flask_wtf import FlaskForm

from plentar.core.door import Rating
from plentar.core.events import Tolerance
from plentar.core.quantity import Band, show
from plentar.web.forms import NumberField

quick = Blueprint("quick", __name__)


class QuickForm(FlaskForm):
    """What is stamped on the element, and the volts at its lugs."""

    class Meta:
        """A page that changes nothing needs no token."""

        csrf = False

    kw = NumberField("Rated kW", 0.1, 40)
    volts = NumberField("Rated volts", 100, 300)
    measured = NumberField("Volts at the lugs", 20, 300, required=False)


@quick.get("/quick", endpoint="show")
def show_page() -> tuple[str, int] | str:
    """The page, or with htmx its answer alone."""
    typed = request.args if request.args else None
    form = QuickForm(typed) if typed else QuickForm(data={"kw": 5.0, "volts": 240.0})
    good = form.validate() if typed else True
    answer = _answer(form) if good else None
    template = "quick/answer.html" if "HX-Request" in request.headers else "quick/quick.html"
    page = render_template(template, form=form, answer=answer)
    return page if good else (page, 422)


def _answer(form: QuickForm) -> dict[str, object]:
    rating = Rating(form.kw.data * 1000, form.volts.data)
    volts = form.measured.data or form.volts.data
    at = Band(volts, volts)
    plate, house = (rating.expected_amps(at, school) for school in Tolerance)
    return {
        "volts": f"{volts:g} V",
        "amps": show(rating.amps(volts), digits=4),
        "plate": plate,
        "house": house,
        "hot": show(rating.hot_ohms, digits=4),
        "cold": rating.expected_cold_ohms,
        "watts": show(rating.watts(volts) / 1000, digits=4),
        "heat": f"{rating.heat_btuh(volts):,.0f}",
        "share": f"{100 * (volts / rating.rated_volts) ** 2:.1f}",
        "step": (
            f"I = {rating.rated_watts:g} W × {volts:g} V ÷ ({rating.rated_volts:g} V)²"
            f" = {show(rating.amps(volts), 'A', 4)}"
        ),
    }
