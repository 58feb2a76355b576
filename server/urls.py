"""Addresses of the application: the API, the way in for the demo, and the front end for all else."""

from django.urls import path, re_path

from server.api.main import api
from server.pages import enter, front_end

urlpatterns = [
    path("api/", api.urls),
    path("enter/<str:token>", enter),
    re_path(r"^(?!api/|assets/).*$", front_end),
]
