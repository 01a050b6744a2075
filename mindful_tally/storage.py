"""Static files with a digest in their names; scripts are modules, so their imports are renamed too."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):
    support_js_module_import_aggregation = True
