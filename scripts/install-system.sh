#!/usr/bin/env bash
# Installs the Debian packages Cronaca needs, only those that are missing; with sudo when not root.
set -euo pipefail
missing=()
command -v mariadbd >/dev/null || [ -x /usr/sbin/mariadbd ] || missing+=(mariadb-server)
# The browser is for the tests alone.
if [ "${1:-}" = --with-browser ]; then
  command -v chromium-headless-shell >/dev/null || missing+=(chromium-headless-shell)
fi
python3 -c 'import venv, ensurepip' 2>/dev/null || missing+=(python3-venv)
command -v npm >/dev/null || missing+=(nodejs npm)
if [ ${#missing[@]} -eq 0 ]; then exit 0; fi
echo "== Debian packages: ${missing[*]} (a few minutes the first time)"
as_root=()
if [ "$(id -u)" -ne 0 ]; then
  command -v sudo >/dev/null || { echo "Missing: ${missing[*]}. Install them as root, then run this again." >&2; exit 1; }
  as_root=(sudo)
fi
"${as_root[@]}" apt-get update -qq
"${as_root[@]}" env DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends "${missing[@]}" >/dev/null
