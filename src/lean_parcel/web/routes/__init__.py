"""The routes, a module for each noun."""

from lean_parcel.web.api import JsonRoutes
from lean_parcel.web.routes import eye, journal, library, pages, photos, places, room, terms

#: All routes that speak JSON.
JSON_ROUTES: tuple[JsonRoutes, ...] = (
    photos.routes,
    journal.routes,
    pages.routes,
    places.routes,
    library.routes,
    room.routes,
    terms.routes,
    eye.routes,
)
