"""What the tests of pages look at: a page as a tree, the events of a visit as stored."""

from __future__ import annotations

import uuid
from collections.abc import Callable, Sequence

import pytest
from bs4 import BeautifulSoup
from sqlalchemy import select
from sqlalchemy.orm import Session

from plentar.store.models import VisitEvent
from tests.app.hands import Posting


@pytest.fixture
def soup() -> Callable[..., BeautifulSoup]:
    """An answer as a tree."""
    return lambda answer: BeautifulSoup(answer.text, "html.parser")


@pytest.fixture
def hands(newcomer, earlier) -> Posting:
    """A newcomer's hands, in a shop without units."""
    somebody = newcomer()
    return Posting(earlier, client=somebody.client, shop_id=somebody.account.shop_id)


@pytest.fixture
def stored(session: Session) -> Callable[[str], Sequence[VisitEvent]]:
    """The events of the visit at a bench's address, in their order."""

    def events(bench: str) -> Sequence[VisitEvent]:
        session.rollback()
        visit_id = uuid.UUID(bench.rsplit("/", 1)[1])
        of_visit = select(VisitEvent).where(VisitEvent.visit_id == visit_id)
        return session.scalars(of_visit.order_by(VisitEvent.id)).all()

    return events
