"""Addresses of the application: the API, the way in for the demo, and the front end for all else."""

from django.urls import path, re_path

from server.api.main import api
from server.pages import enter, front_end

handler400 = "server.errors.bad_request"
handler403 = "server.errors.forbidden"
handler404 = "server.errors.not_found"
handler500 = "server.errors.failed"
urlpatterns = [
    path("api/", api.urls),
    path("enter/<str:token>", enter),
    re_path(r"^(?!api/|assets/).*$", front_end),
]
