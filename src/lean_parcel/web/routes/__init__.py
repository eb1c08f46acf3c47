"""The routes, a module for each noun."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.routes import eye, journal, library, photos, room, session, terms
from lean_parcel.web.routes.page import balance, delivery, pages, places, selection, treatments

#: All routes that speak JSON.
JSON_ROUTES: tuple[JsonRoutes, ...] = (
    photos.routes,
    journal.routes,
    pages.routes,
    balance.routes,
    selection.routes,
    delivery.routes,
    delivery.visits,
    places.routes,
    treatments.routes,
    library.routes,
    room.routes,
    terms.routes,
    session.routes,
    eye.routes,
)
