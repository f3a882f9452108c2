"""Static files: compressed, hashed, and with the imports of ES modules hashed as well."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):
    """Whitenoise's storage that also rewrites ``import … from "./x.js"``."""

    support_js_module_import_aggregation = True
