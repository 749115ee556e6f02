"""Routes of berths."""
from django.conf.urls import url

from harbour.berths import views

urlpatterns = [
    url(r"^$", views.berth_list, name="berth-list"),
    url(r"^next/$", views.follow, name="berth-next"),
]
