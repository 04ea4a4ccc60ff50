#!/usr/bin/env bash
# Installs what the tests need, builds, and runs them all.
set -euo pipefail
cd "$(dirname "$0")/.."
bash scripts/install-servers.sh
npm install --no-save --no-audit --no-fund --loglevel=error
npm run --silent build
npx vitest run "$@"
