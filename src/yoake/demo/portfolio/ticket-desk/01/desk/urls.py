"""Routes of the desk."""
from django.conf.urls import url

from desk.sales import views

urlpatterns = [
    url(r"^$", views.board, name="board"),
    url(r"^sell/(?P<sailing>\d+)/$", views.sell, name="sell"),
]
