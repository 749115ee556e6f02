#! pypi/django@3.2 -> pypi/django@5.2
"""Overrides of hooks that the base class loses, and others that it keeps."""
from django.contrib.auth.views import LogoutView
from django.db.models import Model


class Leave(LogoutView):
    #: behaviour django.contrib.auth.views.LogoutView.get_next_page
    def get_next_page(self):
        return "/"

    def get(self, request):
        return request

    def own(self):
        return 1


class LeaveLoudly(Leave):
    #: behaviour django.contrib.auth.views.LogoutView.get_next_page
    def get_next_page(self):
        return "/bye"


class Thing(Model):
    def save(self):
        return None


class Plain:
    def get_next_page(self):
        return None
