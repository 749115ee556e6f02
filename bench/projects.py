"""The projects that ``bench.truth`` fetches by name: those that readers and knowledge were adjusted on, and those that were not."""

from __future__ import annotations

TUNED = {
    "stdlib": [
        "tornado==4.5",
        "web.py==0.40",
        "ansible==2.9.0",
        "Weblate==3.9",
        "celery==4.3.0",
        "Scrapy==1.6.0",
        "supervisor==4.2.0",
        "buildbot==2.10.0",
        "nose==1.3.7",
        "CherryPy==10.0.0",
        "docutils==0.14",
        "pelican==3.7.0",
        "kombu==4.0.0",
    ],
    "django": [
        "Mezzanine==4.3.1",
        "django-oscar==2.0",
        "wagtail==2.9",
        "django-cms==3.7.0",
        "djangorestframework==3.9.0",
        "django-debug-toolbar==2.0",
        "Weblate==3.9",
        "django-extensions==2.2.9",
        "django-filter==2.2.0",
        "django-allauth==0.42.0",
        "django-mptt==0.11.0",
    ],
}
APART = {
    "stdlib": (
        "Zope==4.1 pyramid==1.10 bottle==0.12.17 gevent==1.4.0 roundup==2.0.0 mailman==3.2.0 nltk==3.4 ipython==7.0.1 spyder==3.3.0 "
        "testtools==2.3.0 Twisted==18.9.0 salt==2019.2.0 luigi==2.8.0 apache-airflow==1.10.9 sympy==1.4 astropy==3.2 gensim==3.8.0 boto==2.49.0 "
        "apache-libcloud==2.6.0 youtube_dl==2019.1.17 mitmproxy==4.0.4 impacket==0.9.20 scapy==2.4.3 hachoir==3.0.0 beets==1.4.9 errbot==6.1.0 "
        "sopel==6.6.0 pyftpdlib==1.5.5 trytond==5.0.0 numpy==1.16.0 Cython==0.29.14"
    ).split(),
    "django": (
        "django-wiki==0.5 pretix==3.8.0 mayan-edms==3.3 django-registration==2.4.1 django-tastypie==0.14.2 django-haystack==2.8.1 django-reversion==3.0.4 "
        "django-simple-history==2.7.0 django-guardian==2.0.0 django-polymorphic==2.0.3 django-import-export==1.2.0 django-tables2==1.21.2 django-treebeard==4.3 "
        "django-taggit==1.1.0 django-compressor==2.3 django-pipeline==1.6.14 django-rest-auth==0.9.5 graphene-django==2.6.0 django-grappelli==2.12.3 "
        "django-suit==0.2.28 django-jet==1.0.8 django-filer==1.5.0 sorl-thumbnail==12.5.0 django-photologue==3.10 django-blog-zinnia==0.20 feincms==1.15.0 "
        "aldryn-newsblog==2.2.0 django-helpdesk==0.2.10 django-two-factor-auth==1.9.1 django-postman==3.6.2 django-machina==1.0.2"
    ).split(),
}
