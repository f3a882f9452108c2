"""Ask the registries what is known against the locked packages, Python's and the style sheet's, and say it.

Run by ``bin/audit FOLDER``: pip-audit is fetched into FOLDER, and only where it would be answered.
"""

import json
import shutil
import subprocess
import sys
import urllib.request
from pathlib import Path
from typing import Any, Final

LOCKED: Final = "requirements.txt"
SOUND, KNOWN, NOT_ASKED = 0, 1, 3


def locked(name: str) -> str:
    """Return the version of a package that is locked."""
    lines = Path(LOCKED).read_text(encoding="utf-8").splitlines()
    return next(line.split("==")[1].split()[0] for line in lines if line.startswith(f"{name}=="))


def answers() -> bool:
    """Whether advisories of Python's packages can be asked for."""
    try:
        with urllib.request.urlopen(f"https://pypi.org/pypi/django/{locked('django')}/json", timeout=10):
            return True
    except OSError:
        return False


def ask_for_python(folder: Path) -> dict[str, Any]:
    """Return pip-audit's report; empty where nobody answers."""
    if not answers():
        return {}
    tool = f"{folder}/audit/bin/pip-audit"
    if shutil.which(tool) is None:
        _told(sys.executable, "-m", "venv", f"{folder}/audit")
        _told(f"{folder}/audit/bin/pip", "install", "-q", "pip-audit")
    return _report(_told(tool, "-r", LOCKED, "--require-hashes", "--disable-pip", "-f", "json"))


def ask_for_node() -> dict[str, Any]:
    """Return npm's report; empty where there is no npm."""
    return _report(_told("npm", "audit", "--package-lock-only", "--json")) if shutil.which("npm") else {}


def _told(*command: str) -> str:
    return subprocess.run(command, capture_output=True, text=True, check=False).stdout  # noqa: S603  # ours, above


def _report(text: str) -> dict[str, Any]:
    try:
        told = json.loads(text)
    except ValueError:
        return {}
    return told if isinstance(told, dict) else {}


def known(python: dict[str, Any], node: dict[str, Any]) -> tuple[list[str], bool]:
    """Return what is known against packages, a line each, and whether all were asked for."""
    packages = python.get("dependencies", [])
    lines = [
        f"{one['name']} {one['version']}: {fault['id']}, mended in {', '.join(fault['fix_versions']) or 'none yet'}"
        for one in packages
        for fault in one.get("vulns", [])
    ]
    of_node = node.get("vulnerabilities", {})
    lines += [f"{name} (npm): {told['severity']}, {told['range']}" for name, told in of_node.items()]
    asked = bool(packages) and not any("skip_reason" in one for one in packages) and "auditReportVersion" in node
    return lines, asked


def main(folder: Path) -> int:
    """Ask, say, and return what the script ends with."""
    lines, asked = known(ask_for_python(folder), ask_for_node())
    print("\n".join(lines) or ("nothing is known against them" if asked else "not asked: no advisories to be had here"))
    return KNOWN if lines else SOUND if asked else NOT_ASKED


if __name__ == "__main__":
    sys.exit(main(Path(sys.argv[1])))
