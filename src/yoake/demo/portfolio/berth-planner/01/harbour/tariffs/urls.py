"""Routes of tariffs."""
from django.conf.urls import url

from harbour.tariffs import views

urlpatterns = [url(r"^$", views.tariff_list, name="tariff-list")]
