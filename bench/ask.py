"""Runs under a real interpreter: which of the paths on standard input can be imported and reached with getattr."""

import importlib
import json
import sys
import warnings

warnings.simplefilter("ignore")
if len(sys.argv) > 1 and sys.argv[1] == "django":
    import django
    from django.conf import settings

    apps = [
        "django.contrib." + name
        for name in (
            "admin",
            "auth",
            "contenttypes",
            "sessions",
            "messages",
            "sites",
            "redirects",
            "flatpages",
            "sitemaps",
        )
    ]
    settings.configure(INSTALLED_APPS=apps, DATABASES={}, SECRET_KEY="x", USE_TZ=True)
    django.setup()


def reaches(path):
    parts = path.split(".")
    for length in range(len(parts), 0, -1):
        try:
            value = importlib.import_module(".".join(parts[:length]))
        except ImportError:
            continue
        except BaseException:
            return None
        for name in parts[length:]:
            try:
                value = getattr(value, name)
            except AttributeError:
                return False
            except BaseException:
                return None
        return True
    return False


out = sys.stdout
sys.stdout = sys.stderr
answers = {path: reaches(path) for path in json.load(sys.stdin)}
json.dump(answers, out)
