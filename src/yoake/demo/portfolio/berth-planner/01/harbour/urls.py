"""Routes of the harbour."""
from django.conf.urls import include, url

urlpatterns = [
    url(r"^berths/", include("harbour.berths.urls")),
    url(r"^tariffs/", include("harbour.tariffs.urls")),
]
