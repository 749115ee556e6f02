"""Addresses that Django's own parts bring when they are included."""

from __future__ import annotations

from typing import Final

_BOTH: Final = ("GET", "POST")
PACKAGED: Final[dict[str, tuple[tuple[str, tuple[str, ...]], ...]]] = {
    "django.contrib.auth.urls": (
        ("login/", _BOTH),
        ("logout/", _BOTH),
        ("password_change/", _BOTH),
        ("password_change/done/", ("GET",)),
        ("password_reset/", _BOTH),
        ("password_reset/done/", ("GET",)),
        ("reset/{uidb64}/{token}/", _BOTH),
        ("reset/done/", ("GET",)),
    ),
    "django.conf.urls.i18n": (("setlang/", ("POST",)),),
    "django.contrib.flatpages.urls": (("{url}", ("GET",)),),
    "rest_framework.urls": (("login/", _BOTH), ("logout/", _BOTH)),
    "django.contrib.admindocs.urls": (
        ("", ("GET",)),
        ("bookmarklets/", ("GET",)),
        ("tags/", ("GET",)),
        ("filters/", ("GET",)),
        ("views/", ("GET",)),
        ("views/{view}/", ("GET",)),
        ("models/", ("GET",)),
        ("models/{app_label}.{model_name}/", ("GET",)),
        ("templates/{template}/", ("GET",)),
    ),
}
"""Module that is included → (path below, methods)."""

_TABLE: Final = ("import/", "process_import/")
_GUARDED: Final = (
    "{object_pk}/permissions/",
    "{object_pk}/permissions/user-manage/{user_id}/",
    "{object_pk}/permissions/group-manage/{group_id}/",
)
SHOWN_BY: Final[dict[str, tuple[str, ...]]] = {
    "django.contrib.auth.admin.UserAdmin": ("{id}/password/",),
    "guardian.admin.GuardedModelAdmin": _GUARDED,
    "guardian.admin.GuardedModelAdminMixin": _GUARDED,
    "simple_history.admin.SimpleHistoryAdmin": ("{object_id}/history/{history_id}/",),
    "import_export.admin.ImportMixin": _TABLE,
    "import_export.admin.ExportMixin": ("export/",),
    "import_export.admin.ImportExportMixin": (*_TABLE, "export/"),
    "import_export.admin.ImportExportModelAdmin": (*_TABLE, "export/"),
    "import_export.admin.ImportExportActionModelAdmin": (*_TABLE, "export/"),
    "reversion.admin.VersionAdmin": ("recover/", "recover/{version_id}/", "{object_id}/history/{version_id}/"),
    "adminsortable2.admin.SortableAdminMixin": ("adminsortable2_update/",),
    "django_object_actions.DjangoObjectActions": ("{pk}/actions/{tool}/", "actions/{tool}/"),
    "treebeard.admin.TreeAdmin": ("move/", "jsi18n/"),
}
"""Class that shows a model in the admin → what it adds below the model's address, as these packages answered when they were asked."""
