"""Forms of berths."""
from django import forms
from django.utils.translation import ugettext_lazy as _


class BerthForm(forms.Form):
    name = forms.CharField(label=_("name"))
    metres = forms.DecimalField(label=_("length"), min_value=0)
