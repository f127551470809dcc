"""The front end's generated client fits the API of this checkout."""

import json
import subprocess
from pathlib import Path

FRONTEND = Path(__file__).resolve().parents[2] / "frontend"
GENERATED = FRONTEND / "src" / "api" / "generated"


def test_openapi_description_is_current():
    from api.routes import http

    assert json.loads((GENERATED / "openapi.json").read_text()) == json.loads(json.dumps(http.get_openapi_schema())), (
        "run: web/manage.py export_openapi frontend/src/api/generated/openapi.json && npm run --prefix frontend client"
    )


def test_typescript_client_is_current(tmp_path):
    out = tmp_path / "schema.d.ts"
    command = ["npx", "openapi-typescript", str(GENERATED / "openapi.json"), "--default-non-nullable=false", "-o", str(out)]
    subprocess.run(command, cwd=FRONTEND, check=True, capture_output=True)
    assert out.read_text() == (GENERATED / "schema.d.ts").read_text()
