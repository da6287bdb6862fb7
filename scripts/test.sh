#!/bin/sh
# Runs everything: lint and import rules, types, unit tests, build, browser tests. Installs what the tests need.
set -eu
cd "$VELVET_HOME"
say() { printf 'velvet test: %s\n' "$*" >&2; }

# Chromium judges our pages and files; sox, libsndfile and ImageMagick read our sound and stills, libxml2 our XML;
# mpeg2enc and mkvmerge make MPEG-2 that we read, libmpeg2 says what its pictures are.
missing=
command -v chromium >/dev/null 2>&1 || missing="$missing chromium"
command -v sox >/dev/null 2>&1 || missing="$missing sox"
command -v sndfile-info >/dev/null 2>&1 || missing="$missing sndfile-programs"
command -v identify >/dev/null 2>&1 || missing="$missing imagemagick"
command -v xmllint >/dev/null 2>&1 || missing="$missing libxml2-utils"
command -v mpeg2enc >/dev/null 2>&1 || missing="$missing mjpegtools"
command -v mpeg2dec >/dev/null 2>&1 || missing="$missing mpeg2dec"
command -v mkvmerge >/dev/null 2>&1 || missing="$missing mkvtoolnix"
if [ -n "$missing" ]; then
  if command -v apt-get >/dev/null 2>&1 && [ "$(id -u)" = 0 ]; then
    say "installing$missing"
    apt-get update -qq
    # shellcheck disable=SC2086
    DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends $missing >/dev/null
  else
    say "not installed:$missing. Tests that need them are skipped; without Chromium there are no browser tests."
  fi
fi

say "preparing"
npx --no-install nuxt prepare >/dev/null 2>&1
node scripts/build-kernel.mjs
say "lint, import rules, unused code"
npm run --silent lint
say "types"
npm run --silent typecheck
say "unit tests"
npm run --silent unit
say "build"
npx --no-install nuxt build >.nuxt-build.log 2>&1 || { cat .nuxt-build.log; exit 1; }
if command -v chromium >/dev/null 2>&1; then
  say "browser tests"
  npm run --silent e2e
fi
say "all passed"
