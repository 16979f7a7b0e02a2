#!/bin/sh
# Records or checks which sources web/assets/dist was built from. With Node 20
# or later and node_modules at hand, the check also builds and compares. lint
# holds scripts and styles to their form; where npm is at hand it installs what
# that needs.
set -eu
sources() { cat package.json web/assets/build.mjs internal/core/content/symbols.txt $(find web/assets/src web/templates -type f | LC_ALL=C sort) | sha256sum | cut -d' ' -f1; }
case "$1" in
  lint)
    command -v npm >/dev/null || { echo "No npm: scripts and styles are not linted." >&2; exit 0; }
    [ -d node_modules/prettier ] || npm ci --no-audit --no-fund >/dev/null
    node_modules/.bin/prettier --log-level warn --check 'web/assets/src/**/*.{css,js}' web/assets/build.mjs eslint.config.mjs
    node_modules/.bin/eslint web/assets/src web/assets/build.mjs ;;
  record) sources >web/assets/sources.sha256 ;;
  check)
    [ "$(sources)" = "$(cat web/assets/sources.sha256)" ] || { echo "web/assets/dist is not up to date: run make assets" >&2; exit 1; }
    if [ -d node_modules/esbuild ] && command -v node >/dev/null; then
      node web/assets/build.mjs 2>/dev/null
      git diff --exit-code --stat -- web/assets/dist || { echo "web/assets/dist differs from its sources: run make assets" >&2; exit 1; }
    fi ;;
esac
