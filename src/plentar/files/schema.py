"""The published JSON Schemas of the visit file and of a shop's archive, generated from the code that checks it."""

from __future__ import annotations

import json

from plentar.core.judgement import FindingCode, SlipCode
from plentar.files.shop_json import ShopJson
from plentar.files.visit_file import VisitFile

DIALECT = "https://json-schema.org/draft/2020-12/schema"


def schema_text() -> str:
    """The schema as it is committed at docs/visit-file.schema.json."""
    schema = {
        "$schema": DIALECT,
        "title": "Plentar visit file",
        **VisitFile.model_json_schema(),
        "x-codes": {"findings": sorted(map(str, FindingCode)), "slips": sorted(map(str, SlipCode))},
    }
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"


def shop_schema_text() -> str:
    """The schema of an archive's ``shop.json`` as it is committed at docs/shop.schema.json."""
    schema = {"$schema": DIALECT, "title": "Plentar shop archive", **ShopJson.model_json_schema()}
    return json.dumps(schema, ensure_ascii=False, indent=1) + "\n"
