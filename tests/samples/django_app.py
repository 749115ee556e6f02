#! python@3.8 pypi/django@2.2 -> python@3.12 pypi/django@5.2
#: removed django.conf.urls.url
from django.conf.urls import include, url
#: removed django.utils.translation.ugettext_lazy
from django.utils.translation import ugettext_lazy as _
from django.utils.translation import gettext_lazy
from django.utils import encoding, timezone
from django.test import TestCase
from django.dispatch import Signal
from django.db import models

#: reshaped django.dispatch.Signal(providing_args=)
sent = Signal(providing_args=["a"])
fine = Signal()
#: removed django.conf.urls.url
urlpatterns = [url(r"^$", None)]
#: removed django.utils.encoding.force_text
name = encoding.force_text("a")
#: removed django.utils.timezone.utc
utc = timezone.utc
now = timezone.now()


class Page(models.Model):
    #: removed django.utils.translation.ugettext_lazy
    title = models.CharField(_("title"), max_length=3)
    #: behaviour django.db.models.NullBooleanField
    shown = models.NullBooleanField()


class PageTest(TestCase):
    def test(self):
        #: removed unittest.case.TestCase.assertEquals
        self.assertEquals(1, 1)
        #: removed django.test.testcases.TransactionTestCase.assertQuerysetEqual
        self.assertQuerysetEqual([], [])
        self.assertContains(None, "x")


class NoneTest(TestCase):
    def assertEquals(self, a, b):
        pass

    def test(self):
        self.assertEquals(1, 1)


#: removed django.core.cache.backends.memcached.MemcachedCache
CACHES = {"default": {"BACKEND": "django.core.cache.backends.memcached.MemcachedCache"}}
from django.conf import settings

#: setting django.conf.settings.STATICFILES_STORAGE
storage = settings.STATICFILES_STORAGE
debug = settings.DEBUG
